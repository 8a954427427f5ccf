<script setup lang="ts">
/** The notes column: what the selected line needs beyond its sentence. Its message, what to say on a call, the parts that
 * are as usual, the ways it divides into, its checks. With nothing selected: all checks of the script. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { refDebounced } from "@vueuse/core";
import { many } from "@/ui/words";
import CheckList from "./CheckList.vue";
import { MergeText } from "./mergeText";
import LibraryOfLine from "../messages/LibraryOfLine.vue";
import SaidFromLibrary from "../messages/SaidFromLibrary.vue";
import MessageNotes from "./MessageNotes.vue";
import PartInPlace from "@/sentences/PartInPlace.vue";
import PairsEdit from "@/sentences/editors/PairsEdit.vue";
import { LANE_NAMES, laneOf, lanesOf, newId, placeOf, removeSteps, setAt, stepOf, type Lane, type Step } from "./document";
import { since } from "./ruler";
import MissingLanes from "./MissingLanes.vue";
import { useScript } from "./script";
import { namesOf, plain, unsaid, type Part, type Values } from "@/sentences/written";

defineProps<{ fields: Schemas["MergeFieldOut"][]; allChecks: Schemas["Check"][] }>();
const emit = defineEmits<{ find: []; next: [step: string] }>();
const script = useScript();

const lane = computed(() => laneOf(script.doc.value, script.noted.value));
const step = computed<Step | undefined>(() => stepOf(script.doc.value, script.noted.value) ?? lane.value?.step);
const kind = computed(() => (step.value ? script.kinds.value.get(step.value.kind) : undefined));
const values = computed(() => step.value as unknown as Values);
const parts = (sorts: Part["sort"][]) => kind.value?.parts.filter((part) => sorts.includes(part.sort)) ?? [];
const messages = computed(() => parts(["message"]));
const written = computed(() => parts(["text", "line"]).filter((part) => part.sort === "text" || kind.value?.who === "member"));
const pairs = computed(() => parts(["pairs"]));
/** What the sentence does not show: each with what it is now. */
const more = computed(() =>
  kind.value && step.value
    ? unsaid(kind.value, values.value, script.book.value, reading.value?.stands_for).filter(
        (part) => !["message", "text", "pairs", "library"].includes(part.sort),
      )
    : [],
);
const shown = computed(
  () =>
    kind.value?.parts.filter(
      (part) => part.clause && part.sort !== "library" && !more.value.includes(part) && !kind.value?.sentence.includes(`{${part.field}}`),
    ) ?? [],
);
const reading = computed(() => (step.value ? script.readings.value.get(step.value.id) : undefined));
const checks = computed(() => (step.value ? (script.checks.value.get(step.value.id) ?? []) : []));
const open = computed(() => script.mayWrite.value);
const several = refDebounced(
  computed(() => script.chosen.value.size > 1),
  150,
);
const moreOpen = ref(false);

function set(field: string, value: unknown, key = "") {
  const id = step.value?.id ?? "";
  script.change((doc) => setAt(stepOf(doc, id), field, value), key && `${key}-${id}`);
}
/** Both readings of when: the day from joining, and how long after the line that did something before it. */
const when = computed(() => {
  const place = step.value && placeOf(script.doc.value, step.value.id);
  if (!place || !reading.value) return "";
  const before = place.run.slice(0, place.index).findLast((one) => script.readings.value.get(one.id)?.waits === "");
  if (!before) return "";
  const said =
    "message" in before && before.message.name
      ? `“${before.message.name}”`
      : `the ${script.kinds.value.get(before.kind)?.label.toLowerCase() ?? "line"} before`;
  return since(reading.value, script.readings.value.get(before.id), said);
});

// Lanes

const laneName = computed(() => {
  const one = lane.value?.lane;
  const of = one && ("answer" in one ? one.answer : "ending" in one ? one.ending : "");
  return of ? `The lane for ${LANE_NAMES[of]}` : "This lane";
});
/** A new lane like those there, before the one that takes everybody else. */
function addLane() {
  const id = step.value?.id ?? "";
  const blank = kind.value?.lane?.blank;
  script.change((doc) => {
    const found = stepOf(doc, id);
    if (!found || !blank || !("lanes" in found)) return;
    const fresh = { ...plain(blank), id: newId("lane"), steps: [] } as Lane;
    if ("when" in fresh) fresh.when = { test: "tag", tag: "", has: true };
    if ("on" in fresh) fresh.on = { kind: "link_clicked", message: "", url: "", when: null };
    if ("share" in fresh) fresh.name = String.fromCharCode(65 + found.lanes.length);
    const lanes = found.lanes as Lane[];
    const last = lanes.findIndex((one) => ("when" in one && !one.when) || ("on" in one && !one.on));
    lanes.splice(last < 0 ? lanes.length : last, 0, fresh);
  });
}
/** A last lane for whom nothing else fits. */
const hasElse = computed(() => lanesOf(step.value as Step).some((one) => ("when" in one && !one.when) || ("on" in one && !one.on)));
function addElse() {
  const id = step.value?.id ?? "";
  script.change((doc) => {
    const found = stepOf(doc, id);
    if (found?.kind === "choose") found.lanes.push({ id: newId("lane"), when: null, steps: [] });
    if (found?.kind === "wait_for") found.lanes.push({ id: newId("lane"), on: null, steps: [] });
  });
}
function removeLane() {
  const id = lane.value?.lane.id;
  const stepId = lane.value?.step.id ?? "";
  script.change((doc) => {
    const found = stepOf(doc, stepId);
    if (found && "lanes" in found)
      found.lanes.splice(
        found.lanes.findIndex((one) => one.id === id),
        1,
      );
  });
  script.select(stepId, true);
}
function removeLines() {
  const ids = [...script.chosen.value];
  script.change((doc) => removeSteps(doc, ids));
  script.select("");
}
const SHARED: Record<string, string> = {
  wait: "Minutes and hours are exact; days, weeks and months are of the calendar where the contact is, so nine stays nine when the clocks change.",
  choose: "The first lane whose condition holds is taken.",
  split: "The same person always takes the same lane. Shares are weights: 50 and 50, or 1 and 3.",
  wait_for: "What happens first takes its lane.",
};
const general = (checks: Schemas["Check"][]) => [...checks.filter((check) => !check.step), ...checks.filter((check) => check.step)];
const errors = (checks: Schemas["Check"][]) => checks.filter((check) => check.severity === "error").length;
</script>

<template>
  <aside id="notes" aria-label="Notes" @keydown.stop>
    <template v-if="several">
      <h2>{{ many(script.chosen.value.size, "line") }}</h2>
      <p class="soft">Alt ↑ ↓ moves them, Ctrl C, X and V copy, cut and paste them, Del takes them out.</p>
      <p v-if="open" class="links remove"><BButton variant="link" @click="removeLines">Take these lines out</BButton> <kbd>Del</kbd></p>
    </template>
    <template v-else-if="lane">
      <h2>{{ laneName }}</h2>
      <p v-if="'answer' in lane.lane && lane.lane.words.length" class="soft">
        Taken when the answer has one of its words as a whole word; the earliest word decides. “Stop” and its like always count as out.
      </p>
      <p v-else class="soft">Its words above can be chosen and changed. <kbd>F</kbd> folds it.</p>
      <p v-if="open" class="links">
        <BButton variant="link" @click="script.moveLane(-1)">To the left</BButton
        ><BButton variant="link" @click="script.moveLane(1)">To the right</BButton>
        <BButton v-if="!('answer' in lane.lane)" variant="link" @click="addLane">Another lane</BButton
        ><BButton variant="link" @click="removeLane">Take this lane out</BButton>
      </p>
    </template>
    <template v-else-if="step && kind">
      <SaidFromLibrary v-if="values.library" :step="step" :kind="kind" />
      <template v-else-if="messages.length">
        <MessageNotes
          v-for="part in messages"
          :key="part.field"
          :step="step"
          :part="part"
          :kind="kind"
          :fields="fields"
          @find="emit('find')"
          @next="emit('next', step.id)" />
        <LibraryOfLine v-if="open && 'library' in step" :key="step.id" :step="step" :kind="kind" />
      </template>
      <h2 v-else>{{ kind.label }}</h2>
      <p v-if="SHARED[step.kind]" class="soft">{{ SHARED[step.kind] }}</p>
      <p v-if="step.kind === 'wait_for_reply'" class="soft">
        The first reply within the limit takes its lane. Later replies
        {{ script.doc.value.leaves_on.some((one) => one.kind === "replied") ? "end the workflow for that contact" : "change nothing" }}.
      </p>
      <div v-for="part in written" :key="part.field" class="field" :data-field="part.field">
        <span class="soft small">{{ part.label }}</span>
        <MergeText
          :of="`${step.id}-${part.field}`"
          :model-value="String(values[part.field] ?? '')"
          :label="part.label"
          :fields="fields"
          :single="part.sort === 'line'"
          :disabled="!open"
          @update:model-value="set(part.field, $event, part.field)" />
      </div>
      <div v-for="part in pairs" :key="step.id + part.field" class="field" :data-field="part.field">
        <span class="soft small">{{ part.label }}</span>
        <PairsEdit
          :pairs="values[part.field] as { name: string; value: string }[]"
          :label="part.label"
          :fields="fields"
          :disabled="!open"
          @change="set(part.field, $event)" />
      </div>
      <p v-if="when" class="soft when">{{ when.charAt(0).toUpperCase() + when.slice(1) }}.</p>
      <template
        v-if="open && 'lanes' in step && !kind.lane?.sentence.includes('words') && !['repeat', 'booking_assistant'].includes(step.kind)"
        ><p class="links">
          <BButton variant="link" @click="addLane">Another lane</BButton
          ><BButton v-if="!hasElse && step.kind !== 'split'" variant="link" @click="addElse">A lane for everyone else</BButton>
        </p></template
      >
      <MissingLanes v-if="step.kind === 'wait_for_reply' || step.kind === 'booking_assistant'" :step="step" />
      <details
        v-if="more.length || shown.length"
        class="more"
        :open="moreOpen"
        @toggle="moreOpen = ($event.currentTarget as HTMLDetailsElement).open">
        <summary>As usual, unless changed</summary>
        <dl>
          <template v-for="part in [...more, ...shown]" :key="part.field"
            ><dt>{{ part.label }}</dt>
            <dd class="serif">
              <PartInPlace
                :part="part.sort === 'yes-no' ? { ...part, clause: '' } : part"
                :value="values[part.field]"
                :names="namesOf(part, values)"
                :stands="reading?.stands_for"
                @change="set(part.field, $event)" /></dd
          ></template>
        </dl>
      </details>
    </template>
    <template v-else>
      <h2>
        {{
          errors(allChecks)
            ? `${errors(allChecks)} to mend before it can be published`
            : allChecks.length
              ? "Worth a look"
              : "Nothing is wrong"
        }}
      </h2>
      <p v-if="!script.doc.value.steps.length" class="soft">
        Write it as you would on paper. Press Enter and type <em>call today</em>, <em>after 5 days text hello</em>, <em>ask</em>,
        <em>tag keen</em>. <kbd>?</kbd> shows all keys.
      </p>
      <p v-else class="soft">Select a line to write its message here. <kbd>?</kbd> shows all keys.</p>
    </template>
    <CheckList v-if="!several" :checks="step ? checks : general(allChecks)" :places="!step" />
    <p v-if="step && !lane && open && !several" class="links remove">
      <BButton variant="link" @click="removeLines">Take this line out</BButton> <kbd>Del</kbd>
    </p>
  </aside>
</template>

<style scoped>
h2 {
  margin-bottom: 6px;
}
.field {
  margin-bottom: 12px;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-top: 12px;
}
.remove {
  border-top: 1px solid var(--rule);
  padding-top: 10px;
  margin-top: 18px;
}
.when {
  margin-top: 10px;
  font-size: 14px;
}
.more {
  margin-top: 14px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
}
.more summary {
  cursor: pointer;
  color: var(--sea);
  font-size: 14px;
}
dl {
  display: grid;
  grid-template-columns: 8.5em 1fr;
  gap: 5px 10px;
  margin: 8px 0 0;
  font-size: 14px;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  font-size: 15.5px;
}
</style>
