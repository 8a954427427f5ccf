<script setup lang="ts">
/** The head of the script, in sentences whose parts are edited in place: what starts it, who may come in again,
 * what ends it, when messages go out. */
import { computed } from "vue";

import type { Doc } from "./document";
import { useScript } from "./script";

const script = useScript();
const doc = script.doc;
const open = computed(() => script.mayWrite.value && script.look.value === "write");
type Hours = NonNullable<Doc["hours"]>;
const DAYS: [Hours["weekdays"][number], string][] = [["mon", "Mo"], ["tue", "Tu"], ["wed", "We"], ["thu", "Th"], ["fri", "Fr"], ["sat", "Sa"], ["sun", "Su"]];

const tagStarts = computed(() => doc.value.starts.flatMap((start, index) => (start.kind === "tag_added" ? [{ start, index }] : [])));
const byHand = computed(() => doc.value.starts.some((start) => start.kind === "by_hand"));
/** Several tags of one start are written with commas between. */
function setStart(index: number, typed: string) {
  const tags = typed.split(",").map((tag) => tag.trim()).filter(Boolean);
  script.change((draft) => {
    const start = draft.starts[index];
    if (tags.length && start?.kind === "tag_added") start.tags = tags;
    else draft.starts.splice(index, 1);
  });
}
function addStart() {
  script.change((draft) => draft.starts.unshift({ kind: "tag_added", tags: [] }));
}
const leavesOnReply = computed(() => doc.value.leaves_on.some((one) => one.kind === "replied"));
function toggleReply() {
  script.change((draft) => {
    const others = draft.leaves_on.filter((one) => one.kind !== "replied");
    draft.leaves_on = leavesOnReply.value ? others : [{ kind: "replied", message: "" }, ...others];
  });
}
function setByHand(on: boolean) {
  script.change((draft) => {
    draft.starts = draft.starts.filter((start) => start.kind !== "by_hand");
    if (on) draft.starts.push({ kind: "by_hand" });
  });
}
function setAgain(again: string) {
  script.change((draft) => {
    const rule = again === "after" ? { again: "after" as const, after: doc.value.entry.after ?? "30 days" } : { again: again as "never" | "always", after: null };
    draft.entry = { ...draft.entry, ...rule };
  });
}
function setHours(changes: Partial<Hours> | null) {
  script.change((draft) => {
    draft.hours = changes === null ? null : { ...(draft.hours ?? { weekdays: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"], start: "09:00", end: "19:00" }), ...changes };
  });
}
function toggleDay(day: Hours["weekdays"][number]) {
  const now = doc.value.hours?.weekdays ?? [];
  const next = now.includes(day) ? now.filter((one) => one !== day) : [...now, day];
  if (next.length) setHours({ weekdays: next });
}
</script>

<template>
  <div class="head" @keydown.stop>
    <div>
      <span class="say">Starts when tagged</span>
      <input v-for="{ start, index } in tagStarts" :key="index" class="serif" :class="{ blank: !start.tags.length }" :value="start.tags.join(', ')" list="head-tags" aria-label="Tag that starts it" placeholder="which tag?" maxlength="400" :disabled="!open" @change="setStart(index, ($event.target as HTMLInputElement).value.trim())" />
      <datalist id="head-tags"><option v-for="tag in script.tags.value" :key="tag" :value="tag" /></datalist>
      <button v-if="open" class="link small" @click="addStart">{{ tagStarts.length ? "or another tag" : "a tag…" }}</button>
      <label><input type="checkbox" :checked="byHand" :disabled="!open" @change="setByHand(($event.target as HTMLInputElement).checked)" /> enrolled by hand</label>
    </div>
    <div>
      <span class="say">Who was in it before</span>
      <select :value="doc.entry.again" aria-label="Who was in it before" :disabled="!open" @change="setAgain(($event.target as HTMLSelectElement).value)">
        <option value="never">does not come in again</option><option value="after">may come in again after {{ doc.entry.after ?? "30 days" }}</option><option value="always">may come in again</option>
      </select>
      <label><input type="checkbox" :checked="leavesOnReply" :disabled="!open" @change="toggleReply" /> leaves on any reply</label>
    </div>
    <div>
      <label><input type="checkbox" :checked="!!doc.hours" :disabled="!open" @change="setHours(doc.hours ? null : {})" /> <span class="say">Sends only</span></label>
      <template v-if="doc.hours">
        <span class="days"><button v-for="[day, words] in DAYS" :key="day" type="button" class="day" :class="{ on: doc.hours.weekdays.includes(day) }" :aria-pressed="doc.hours.weekdays.includes(day)" :disabled="!open" @click="toggleDay(day)">{{ words }}</button></span>
        from <input type="time" :value="doc.hours.start" aria-label="from" :disabled="!open" @change="setHours({ start: ($event.target as HTMLInputElement).value })" />
        to <input type="time" :value="doc.hours.end" aria-label="to" :disabled="!open" @change="setHours({ end: ($event.target as HTMLInputElement).value })" /> where they are
      </template>
      <span v-else class="soft">at certain hours; now at any hour</span>
    </div>
  </div>
</template>

<style scoped>
.head { border: 1px solid var(--rule); background: var(--paper); padding: 10px 14px; margin: 0 0 12px; font-size: 14.5px; display: grid; gap: 8px; }
.head > div { display: flex; flex-wrap: wrap; gap: 6px 12px; align-items: center; }
.say { font-weight: 600; display: inline; font-size: inherit; color: inherit; }
label > span { display: inline; }
input:not([type="checkbox"]), select { font-size: 14.5px; padding: 2px 6px; }
input.blank { border-color: var(--rust); }
.days { display: inline-flex; gap: 3px; }
.day { background: transparent; color: var(--soft); border: 0; border-bottom: 2px solid var(--rule); padding: 1px 6px; font-weight: 400; }
.day.on { color: var(--ink); border-color: var(--sea); font-weight: 600; }
.day:hover { background: var(--mist); }
</style>
