<script setup lang="ts">
/** The head of the script, in sentences whose parts are edited in place: what starts it, who may come in and come in again,
 * what ends it, when messages go out, the account's own rules. */
import { computed } from "vue";

import AddPick from "@/sentences/editors/AddPick.vue";
import PartInPlace from "@/sentences/PartInPlace.vue";
import { setAt, type Doc } from "./document";
import { useScript } from "./script";
import { aPart, plain } from "@/sentences/written";
import AimSentence from "./AimSentence.vue";
import TriggerList from "./TriggerList.vue";

defineProps<{ over: string; house: string[] }>();
const script = useScript();
// Each by itself, so that a change further down does not draw the head anew.
const starts = computed(() => script.doc.value.starts);
const leavesOn = computed(() => script.doc.value.leaves_on);
const entry = computed(() => script.doc.value.entry);
const hours = computed(() => script.doc.value.hours);
/** Whether what is there can be taken out, and more put in; its parts can be changed all the same. */
const opened = defineModel<boolean>("open", { required: true });
const may = computed(() => script.mayWrite.value && script.look.value === "write");
const open = computed(() => may.value && opened.value);
const triggers = computed(() => [...script.book.value.triggers.values()]);
type List = "starts" | "leaves_on";

function setPart(list: List, index: number, field: string, value: unknown) {
  script.change((draft) => setAt(draft[list][index], field, value));
}
function add(list: List, kind: string) {
  const blank = script.book.value.triggers.get(kind)?.blank;
  if (!blank) return;
  script.change((draft) => (draft[list] as unknown[]).push(plain(blank)));
}
function remove(list: List, index: number) {
  script.change((draft) => draft[list].splice(index, 1));
}
const again = computed(() => {
  const [nobody, who] = entry.value.each === "deal" ? ["No deal", "Deals"] : ["Nobody", "People"];
  return aPart("again", "choice", "whether people may come in again", {
    choices: [
      { value: "never", words: `${nobody} comes in twice` },
      { value: "after", words: `${who} may come in again` },
      { value: "always", words: `${who} may come in again once they left` },
    ],
  });
});
const EACH = aPart("each", "choice", "what is inside once at a time", {
  choices: [
    { value: "person", words: "person" },
    { value: "deal", words: "deal" },
  ],
});
const AFTER = aPart("after", "duration", "after how long");
const WHO = aPart("who", "condition", "who may come in", { empty: "everybody", optional: true });
const HELD = computed(() => {
  const shares = [...new Set([0, 2, 3, 4, 5, 10, 20, entry.value.hold_back])].sort((a, b) => a - b);
  const choices = shares.map((one) => ({ value: String(one), words: one ? `1 in ${one}` : "nobody" }));
  return aPart("hold_back", "choice", "how many are left out on purpose", { choices });
});
const DAYS = aPart("weekdays", "weekdays", "weekdays for sending");
const FROM = aPart("start", "time", "from");
const TO = aPart("end", "time", "to");

/** Field by field, so that two who change different ones do not get in each other's way. */
function setEntry(parts: Partial<Doc["entry"]>) {
  script.change((draft) => {
    Object.assign(draft.entry, parts);
  });
}
function setAgain(again: unknown) {
  script.change((draft) => {
    draft.entry = {
      ...draft.entry,
      again: again as Doc["entry"]["again"],
      after: again === "after" ? (draft.entry.after ?? "30 days") : null,
    };
  });
}
function setHours(changes: Record<string, unknown> | null) {
  script.change((draft) => {
    const next =
      changes === null
        ? null
        : { weekdays: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"], start: "09:00", end: "19:00", ...draft.hours, ...changes };
    if (next === null || next.start < next.end) draft.hours = next as Doc["hours"];
  });
}
</script>

<template>
  <div class="head serif" role="group" aria-label="How it starts and ends" @keydown.stop>
    <p>
      Starts
      <TriggerList
        :triggers="starts"
        :open="open"
        :takes-out="(number) => `Take start ${number} out`"
        @set="(index, field, value) => setPart('starts', index, field, value)"
        @remove="(index) => remove('starts', index)" /><span v-if="!starts.length" class="rust">never</span>.
      <AddPick v-if="open" words="or when…" label="Add a start" :among="triggers" @add="(kind) => add('starts', kind)" />
      <span class="over">{{ over }}</span>
    </p>
    <p>
      Each
      <PartInPlace :part="EACH" :value="entry.each" @change="setEntry({ each: $event as Doc['entry']['each'] })" />
      is in it once at a time.
      <PartInPlace :part="again" :value="entry.again" @change="setAgain" /><template v-if="entry.again === 'after'"
        >,
        <PartInPlace :part="AFTER" :value="entry.after" @change="setEntry({ after: $event as string })" />
        after they left</template
      >; open to <template v-if="entry.who">only who </template
      ><PartInPlace :part="WHO" :value="entry.who" @change="setEntry({ who: $event as Doc['entry']['who'] })" />.
      <template v-if="open || entry.hold_back"
        >Leaves out
        <PartInPlace :part="HELD" :value="String(entry.hold_back)" @change="setEntry({ hold_back: Number($event) })" />
        of them on purpose, to compare.</template
      >
      <template v-if="leavesOn.length"
        >Leaves
        <TriggerList
          :triggers="leavesOn"
          :open="open"
          :takes-out="(number) => `Take out what ends it, ${number}`"
          @set="(index, field, value) => setPart('leaves_on', index, field, value)"
          @remove="(index) => remove('leaves_on', index)" /></template
      ><template v-else>Stays in, whatever happens</template>.
      <AddPick
        v-if="open"
        words="or when…"
        label="Add what ends it"
        :among="triggers.filter((trigger) => trigger.happens)"
        @add="(kind) => add('leaves_on', kind)" />
      <AimSentence :open="open" :may="may" />
    </p>
    <p>
      <template v-if="hours"
        >Sends <PartInPlace :part="DAYS" :value="hours.weekdays" @change="(value) => setHours({ weekdays: value })" />,
        <PartInPlace :part="FROM" :value="hours.start" @change="(value) => setHours({ start: value })" /> to
        <PartInPlace :part="TO" :value="hours.end" @change="(value) => setHours({ end: value })" />, where they are.<button
          v-if="open"
          class="link tiny"
          aria-label="Send at any hour"
          @click="setHours(null)">
          ✕
        </button></template
      >
      <template v-else
        >Sends at any hour. <button v-if="may" class="link tiny" @click="setHours({})">only at certain hours</button></template
      >
      <button v-if="may" class="link change" :aria-expanded="opened" @click="opened = !opened">
        {{ opened ? "done" : "add or take out…" }}
      </button>
      <small v-if="house.length" class="house soft">The house: {{ house.join("; ") }}.</small>
    </p>
  </div>
</template>

<style scoped>
.head {
  font-size: 16px;
  line-height: 1.45;
  max-width: 50em;
  margin: 8px 0 12px;
}
.head p {
  margin: 0 0 2px;
}
.head :deep(.add) {
  margin-left: 6px;
}
.tiny {
  font: 12.5px var(--sans);
  margin: 0 2px 0 4px;
  text-decoration: none;
  color: var(--soft);
}
.tiny:hover {
  color: var(--sea);
}
.change {
  font: 13.5px var(--sans);
  margin-left: 8px;
}
.over {
  margin-left: 4px;
}
.house {
  font-family: var(--sans);
}
</style>
