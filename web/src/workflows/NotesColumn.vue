<script setup lang="ts">
/** The notes column: what the selected line needs beyond its sentence. Its message with a preview, what to say on a call,
 * the ways it divides into, its checks. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import ContactPick from "./ContactPick.vue";
import ConditionEdit from "./ConditionEdit.vue";
import MergeText from "./MergeText.vue";
import { laneOf, lanesOf, newId, removeStep, stepOf, type ChoiceLane, type Condition, type ReplyLane, type Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ fields: Schemas["MergeFieldOut"][]; allChecks: Schemas["Check"][] }>();
const script = useScript();
const reader = ref<number>();

const lane = computed(() => laneOf(script.doc.value, script.selected.value));
const step = computed<Step | undefined>(() => stepOf(script.doc.value, script.selected.value) ?? lane.value?.step);
const kind = computed(() => (step.value ? script.kinds.value.get(step.value.kind) : undefined));
const message = computed(() => (step.value && "message" in step.value ? step.value.message : undefined));
const subject = computed(() => (message.value && "subject" in message.value ? String(message.value.subject) : undefined));
/** The parts that are words with merge fields: one line, or several. */
const written = computed(() => kind.value?.parts.filter((part) => part.sort === "line" || part.sort === "text") ?? []);
const valueOf = (field: string) => String((step.value as unknown as Record<string, unknown>)[field] ?? "");
const checks = computed(() => (step.value ? (script.checks.value.get(step.value.id) ?? []) : []));
const open = computed(() => script.mayWrite.value);

function setMessage(changes: Record<string, string>) {
  const id = step.value?.id ?? "";
  script.change((doc) => {
    const found = stepOf(doc, id);
    if (found && "message" in found) Object.assign(found.message, changes);
  }, `message-${id}-${Object.keys(changes)[0]}`);
}
function setWritten(field: string, text: string) {
  const id = step.value?.id ?? "";
  script.change((doc) => {
    const found = stepOf(doc, id) as unknown as Record<string, unknown> | undefined;
    if (found) found[field] = text;
  }, `${field}-${id}`);
}
function setCondition(laneId: string, when: Condition | null) {
  script.change((doc) => {
    const found = laneOf(doc, laneId)?.lane;
    if (found && "when" in found) found.when = when;
  });
}
const ANSWERS: ReplyLane["answer"][] = ["yes", "out", "other", "none"];
const NAMES = { yes: "yes", out: "out", other: "anything else", none: "no answer" };
const missing = computed(() => ANSWERS.filter((answer) => !lanesOf(step.value as Step).some((one) => "answer" in one && one.answer === answer)));
function addReplyLane(answer: ReplyLane["answer"]) {
  script.change((doc) => {
    const found = stepOf(doc, step.value?.id ?? "");
    if (found?.kind !== "wait_for_reply") return;
    found.lanes.push({ id: newId("lane"), answer, words: answer === "yes" ? ["yes"] : answer === "out" ? ["no"] : [], steps: [] });
    found.lanes.sort((a, b) => ANSWERS.indexOf(a.answer) - ANSWERS.indexOf(b.answer));
  });
}
function addChoiceLane() {
  script.change((doc) => {
    const found = stepOf(doc, step.value?.id ?? "");
    if (found?.kind !== "choose") return;
    const last = found.lanes.findIndex((one) => !one.when);
    const fresh: ChoiceLane = { id: newId("lane"), when: { test: "tag", tag: "", has: true }, steps: [] };
    found.lanes.splice(last < 0 ? found.lanes.length : last, 0, fresh);
  });
}
function removeLane() {
  const id = lane.value?.lane.id;
  const stepId = lane.value?.step.id ?? "";
  script.change((doc) => {
    const found = stepOf(doc, stepId);
    if (found && "lanes" in found) found.lanes.splice(found.lanes.findIndex((one) => one.id === id), 1);
  });
  script.select(stepId);
}
function removeLine() {
  const id = step.value?.id ?? "";
  script.change((doc) => removeStep(doc, id));
  script.select("");
}

const { data: preview } = useQuery({
  queryKey: ["preview", script.account, reader, () => message.value?.body, subject],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/preview", {
        params: { path: { account: script.account.value } },
        body: { body: message.value?.body ?? "", subject: subject.value ?? "", contact_id: reader.value },
      }),
    ),
  enabled: () => !!message.value,
  placeholderData: (before) => before,
});
const general = computed(() => props.allChecks.filter((check) => !check.step));
const errors = computed(() => props.allChecks.filter((check) => check.severity === "error").length);
</script>

<template>
  <aside id="notes" aria-label="Notes" @keydown.stop>
    <template v-if="lane && lane.step.kind === 'choose'">
      <h2>When this lane is taken</h2>
      <ConditionEdit v-if="'when' in lane.lane && lane.lane.when" :condition="lane.lane.when" :tags="script.tags.value" @change="setCondition(lane.lane.id, $event)" />
      <p v-else class="soft">By everyone whom no lane before it fits.</p>
      <p class="links"><button v-if="open" class="link" @click="removeLane">Take this lane out</button><button v-if="open" class="link" @click="addChoiceLane">Another lane</button></p>
    </template>
    <template v-else-if="lane">
      <h2>The lane for {{ "answer" in lane.lane ? NAMES[lane.lane.answer] : "" }}</h2>
      <p v-if="'answer' in lane.lane && lane.lane.words.length" class="soft">Taken when the answer has one of its words as a whole word; the earliest word decides. “Stop” and its like always count as out.</p>
      <p class="links"><button v-if="open" class="link" @click="removeLane">Take this lane out</button></p>
    </template>
    <template v-else-if="step && message">
      <label class="name" data-field="message"><span>{{ kind?.label }}, as the team calls it</span><input :value="message.name" maxlength="120" :disabled="!open" placeholder="Checking in" @input="setMessage({ name: ($event.target as HTMLInputElement).value })" /></label>
      <div v-if="subject !== undefined" class="subject"><span class="soft small">Subject</span><MergeText :key="`${step.id}-subject`" :model-value="subject" label="Subject" :fields="fields" single :disabled="!open" @update:model-value="setMessage({ subject: $event })" /></div>
      <MergeText :key="step.id" :model-value="message.body" :label="`Words of the ${step.kind}`" :fields="fields" :disabled="!open" @update:model-value="setMessage({ body: $event })">
        <span v-if="preview && step.kind === 'text'" :class="{ gorse: preview.parts > 1 }">{{ preview.parts > 1 ? `▲ ${preview.parts} parts` : "1 part" }}, {{ preview.used }} of {{ preview.room }}{{ preview.alphabet === "UCS-2" ? ", short parts: a letter is not in the texting alphabet" : "" }}</span>
      </MergeText>
      <div class="reader">
        <small class="soft">as <ContactPick v-model="reader" :name="preview?.contact" /> would read it</small>
        <p v-if="preview?.fault" class="fault">{{ preview.fault }}</p>
        <template v-else-if="preview"><strong v-if="preview.subject">{{ preview.subject }}</strong><p>{{ preview.body || "No words yet." }}</p></template>
      </div>
    </template>
    <template v-else-if="step && written.length">
      <h2>{{ kind?.label }}</h2>
      <div v-for="part in written" :key="step.id + part.field" class="subject" :data-field="part.field">
        <span class="soft small">{{ part.label }}</span>
        <MergeText :model-value="valueOf(part.field)" :label="part.label" :fields="fields" :single="part.sort === 'line'" :disabled="!open" @update:model-value="setWritten(part.field, $event)" />
      </div>
    </template>
    <template v-else-if="step">
      <h2>{{ kind?.label }}</h2>
      <p v-if="step.kind === 'wait'" class="soft">Minutes and hours are exact; days, weeks and months are of the calendar where the contact is, so nine stays nine when the clocks change.</p>
      <template v-if="step.kind === 'wait_for_reply'">
        <p class="soft">The first reply within the limit takes its lane. Later replies {{ script.doc.value.leaves_on.some((one) => one.kind === "replied") ? "end the workflow for that contact" : "change nothing" }}.</p>
        <p v-if="open && missing.length" class="links">Add a lane for <button v-for="answer in missing" :key="answer" class="link" @click="addReplyLane(answer)">{{ NAMES[answer] }}</button></p>
      </template>
      <template v-if="step.kind === 'choose'">
        <p class="soft">The first lane whose condition holds is taken. Select a lane’s words to change its condition.</p>
        <p v-if="open" class="links"><button class="link" @click="addChoiceLane">Another lane</button></p>
      </template>
    </template>
    <template v-else>
      <h2>{{ errors ? `${errors} to mend before it can be published` : allChecks.length ? "Worth a look" : "Nothing is wrong" }}</h2>
      <p v-if="!script.doc.value.steps.length" class="soft">Write it as you would on paper: type <em>text</em>, <em>wait 3 days</em>, <em>ask</em>, <em>call about the course</em>. <kbd>?</kbd> shows all keys.</p>
      <p v-else class="soft">Select a line to write its message here. <kbd>?</kbd> shows all keys.</p>
    </template>
    <ul v-if="step ? checks.length : allChecks.length" class="checks">
      <li v-for="check in step ? checks : [...general, ...allChecks.filter((one) => one.step)]" :key="check.code + check.step" :class="check.severity === 'error' ? 'rust' : 'gorse'">
        <span>{{ check.severity === "error" ? "✕" : "▲" }}</span><button v-if="check.step && !step" class="link" @click="script.select(check.step, true)">{{ check.sentence }}</button><span v-else>{{ check.sentence }}</span>
      </li>
    </ul>
    <p v-if="step && !lane && open" class="links remove"><button class="link" @click="removeLine">Take this line out</button> <kbd>Del</kbd></p>
  </aside>
</template>

<style scoped>
.name { width: 100%; margin-bottom: 12px; }
.name input { width: 100%; font: 600 18px var(--serif); border-color: transparent; padding: 2px 0; background: transparent; }
.name input:hover, .name input:focus { border-bottom-color: var(--sea); }
.subject { margin-bottom: 12px; }
.reader { border: 1px solid var(--rule); background: var(--chalk); padding: 10px 14px; margin-top: 14px; font-size: 15px; overflow-wrap: anywhere; }
.reader strong { display: block; margin-top: 4px; }
.reader p { white-space: pre-line; margin: 4px 0 0; }
.checks { list-style: none; padding: 0; margin: 14px 0 0; }
.checks li { display: flex; gap: 6px; border-top: 1px solid var(--rule); padding: 7px 0; }
.checks button { color: inherit; text-align: left; }
.links { display: flex; flex-wrap: wrap; gap: 4px 14px; margin-top: 12px; }
.remove { border-top: 1px solid var(--rule); padding-top: 10px; margin-top: 18px; }
</style>
