<script setup lang="ts">
/** Who is rehearsed and from when, how it came out, the scenarios kept of it, and the whole series to oneself. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ContactPick from "@/shared/ContactPick.vue";
import OwnSeries from "./OwnSeries.vue";
import RehearsedDates from "./RehearsedDates.vue";
import { useScript } from "@/areas/workflows/script/script";
import type { Rehearsing } from "./useRehearsal";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ rehearsal: Rehearsing }>();
const start = defineModel<string>("start", { required: true });
const script = useScript();
const { contact, invented, scenario, toTheEnd, upTo, outcome, error, scenarios, verdicts, moments, all, shown, awaits } = props.rehearsal;
const { act, pending } = usePending();
const begun = computed(
  () =>
    Object.keys(script.answers.value).length > 0 ||
    props.rehearsal.moves.value.length > 0 ||
    upTo.value !== undefined ||
    toTheEnd.value ||
    scenario.value !== "",
);

function invent(more: Partial<(typeof invented)["value"]>) {
  invented.value = { ...invented.value, ...more };
}
const tagsOf = (typed: string) =>
  typed
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);

const few = ref<Schemas["TypicalOut"]>();
const nameOf = (step: string) => script.book.value.lineName(step);
const find = () => act(async () => (few.value = await props.rehearsal.typical()));
const kept = ref("");
const keptBefore = ref(false);
const keep = () =>
  act(async () => {
    const { name, already } = await props.rehearsal.keep(script.change);
    kept.value = name;
    keptBefore.value = already;
  });
defineExpose({ keep });

const verdictOf = (name: string) => verdicts.value?.verdicts.find((one) => one.name === name);
const uncovered = computed(() => (scenarios.value.length ? (verdicts.value?.not_reached ?? []) : []));
function show(name: string) {
  props.rehearsal.again();
  scenario.value = name;
}
function rename(index: number, name: string) {
  const next = name.trim();
  if (!next || scenarios.value.some((one) => one.name === next)) return;
  script.change((doc) => {
    const one = doc.scenarios?.[index];
    if (one) one.name = next;
  });
}
function drop(index: number) {
  script.change((doc) => void doc.scenarios?.splice(index, 1));
  props.rehearsal.again();
}
</script>

<template>
  <aside id="notes" aria-label="Rehearsal">
    <h2>Rehearsal</h2>
    <p class="soft">Played by the engine itself against made-up time. Nothing is sent, nobody is changed.</p>
    <p v-if="scenario" class="serif">
      The scenario “{{ scenario }}”. <BButton variant="link" @click="rehearsal.again()">Back to somebody</BButton>
    </p>
    <template v-else>
      <p class="tight">
        With <ContactPick v-model="contact" :name="outcome?.contact" /> who joins <MomentInPlace v-model="start" label="joins at" />
      </p>
      <details v-if="!contact" class="small invented">
        <summary>Who does not exist: what they have</summary>
        <FormRow label="First name (none: leave it empty)"
          ><BFormInput
            :model-value="invented.first_name"
            maxlength="80"
            :model-modifiers="{ lazy: true }"
            @update:model-value="invent({ first_name: String($event).trim() })"
        /></FormRow>
        <div class="row">
          <label
            ><BFormCheckbox
              class="beside"
              plain
              :model-value="invented.mobile !== ''"
              @update:model-value="invent({ mobile: invented.mobile === '' ? null : '' })" />
            a mobile number</label
          >
          <label
            ><BFormCheckbox
              class="beside"
              plain
              :model-value="!!invented.email"
              @update:model-value="invent({ email: invented.email ? '' : 'robin@example.com' })" />
            an email address</label
          >
        </div>
        <FormRow label="Tags, by commas"
          ><BFormInput
            :model-value="invented.tags.join(', ')"
            :model-modifiers="{ lazy: true }"
            @update:model-value="invent({ tags: tagsOf(String($event)) })"
        /></FormRow>
      </details>
      <p class="small soft">
        <template v-for="(one, index) in moments" :key="one.words"
          >{{ index ? " · " : "or " }}<BButton variant="link" @click="start = one.start">{{ one.words }}</BButton></template
        >
      </p>
      <RehearsedDates v-if="outcome?.dates.types.length" :rehearsal="rehearsal" :dates="outcome.dates" />
      <p class="small"><BButton variant="link" :disabled="pending" @click="find">A typical few of the account</BButton></p>
      <ol v-if="few" class="few">
        <li v-for="one in few.rows" :key="one.contact_id" :class="{ on: contact === one.contact_id }">
          <BButton variant="link" @click="contact = one.contact_id">{{ one.contact }}</BButton><small v-if="one.alike" class="soft">
            and {{ one.alike }} alike</small
          >
          <small v-if="one.shows.length" class="soft shows"
            >shows {{ one.shows.slice(0, 3).map(nameOf).join(" · ")
            }}{{ one.shows.length > 3 ? ` and ${many(one.shows.length - 3, "line")} more` : "" }}</small
          >
        </li>
        <li class="soft small">
          Of {{ many(few.looked_at, "contact") }} looked at, as if none of them answered.{{
            few.unseen.length ? ` ${many(few.unseen.length, "line comes", "lines come")} for none of them.` : ""
          }}
        </li>
      </ol>
    </template>
    <p v-if="error" class="fault" role="alert">{{ error.message }}</p>
    <template v-if="outcome">
      <p class="came serif" role="status">
        <template v-if="upTo !== undefined && shown.length < all.length"
          ><span class="soft">Day {{ shown.at(-1)?.day }}, {{ shown.at(-1)?.when }}.</span>
          {{ many(all.length - shown.length, "thing is", "things are") }} to come.</template
        >
        <template v-else-if="awaits"><StateMark is="waits" /> Waits for an answer: give one at the line marked so.</template>
        <template v-else-if="outcome.failures.length"><StateMark is="failed" /> {{ outcome.failures.join(" ") }}</template>
        <template v-else-if="outcome.ended"
          ><StateMark is="done" /> {{ outcome.ended.charAt(0).toUpperCase() + outcome.ended.slice(1) }}, on day
          {{ outcome.lines.at(-1)?.day ?? 0 }}.</template
        >
        <template v-else>Still inside.</template>
      </p>
      <div class="keys">
        <BButton variant="outline-primary" :disabled="upTo === 1" title="One thing back (arrow left)" @click="rehearsal.step(-1)"
          >← Back</BButton
        >
        <BButton
          variant="outline-primary"
          :disabled="upTo !== undefined && shown.length === all.length"
          title="One thing on (arrow right)"
          @click="rehearsal.step(1)"
          >Step →</BButton
        >
        <BButton
          variant="outline-primary"
          :disabled="!awaits && (upTo === undefined || shown.length === all.length)"
          title="As if nothing were answered (Alt E)"
          @click="rehearsal.goToTheEnd()"
          >To the end</BButton
        >
        <BButton v-if="begun" variant="link" @click="rehearsal.again()">From the beginning</BButton>
      </div>
      <p class="small">
        Tags then: <span v-for="tag in outcome.tags" :key="tag" class="tag">{{ tag }}</span><span v-if="!outcome.tags.length" class="soft"
          >none</span
        >
      </p>
    </template>
    <h3>Scenarios</h3>
    <p v-if="!scenarios.length" class="soft small">
      None yet. Kept, a rehearsal is played again at every change, and says when it comes out otherwise.
    </p>
    <ol v-else class="kept">
      <li v-for="(one, index) in scenarios" :key="one.name" :class="{ on: scenario === one.name }">
        <span :class="verdictOf(one.name)?.failures.length ? 'rust' : 'kelp'">{{
          verdictOf(one.name) ? (verdictOf(one.name)?.failures.length ? "✕ fails" : "✓ holds") : "…"
        }}</span>
        <BFormInput
          v-if="scenario === one.name && script.mayWrite.value"
          :model-value="one.name"
          aria-label="Name of the scenario"
          maxlength="200"
          :model-modifiers="{ lazy: true }"
          @update:model-value="rename(index, String($event))" />
        <BButton v-else variant="link" @click="show(one.name)">{{ one.name }}</BButton>
        <BButton
          v-if="script.mayWrite.value"
          variant="link"
          class="small out"
          :aria-label="`Take out the scenario ${one.name}`"
          @click="drop(index)"
          >take out</BButton
        >
        <div v-for="failure in verdictOf(one.name)?.failures" :key="failure" class="small rust">{{ failure }}</div>
      </li>
    </ol>
    <p v-if="scenarios.length" class="small" :class="uncovered.length ? 'gorse' : 'kelp'">
      {{
        uncovered.length
          ? `◷ No scenario comes to ${many(uncovered.length, "line")}; they are marked along the script.`
          : "✓ Together they come to every line."
      }}
    </p>
    <p v-if="script.mayWrite.value && !scenario">
      <BButton variant="outline-primary" :disabled="pending || !outcome" @click="keep">Keep this as a scenario <kbd>Alt K</kbd></BButton>
    </p>
    <p v-if="kept" class="kelp small" role="status">
      <StateMark is="done" /> {{ keptBefore ? "It is kept already, as" : "Kept as" }} “{{ kept }}”.
    </p>
    <OwnSeries v-if="script.mayWrite.value" :send="rehearsal.series" />
    <details v-if="outcome" class="all">
      <summary>All that happened, with the reasons</summary>
      <ol>
        <li v-for="(line, index) in shown" :key="index">
          <small class="soft">Day {{ line.day }}, {{ line.when }}</small
          ><br />{{ line.reasons.join(" ") }}
        </li>
      </ol>
    </details>
  </aside>
</template>

<style scoped>
.invented {
  margin: 0 0 6px;
}
.invented label,
.invented input:not([type="checkbox"]) {
  width: 100%;
  font-size: 14px;
}
.invented .row label {
  width: auto;
}
.tight {
  margin-bottom: 3px;
}
.came {
  font-size: 17px;
  border-top: 1px solid var(--ink);
  padding-top: 12px;
  margin-top: 14px;
}
.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 7px;
  margin: 8px 0;
  align-items: baseline;
}
.keys button.plain {
  padding: 3px 9px;
  font-size: 13.5px;
}
h3 {
  margin: 18px 0 4px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0 0 8px;
}
li {
  border-top: 1px solid var(--rule);
  padding: 5px 0;
  font-size: 14px;
}
li.on {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
.shows {
  display: block;
}
.kept input {
  width: 100%;
  font-size: 14px;
}
.kept li > span {
  font-size: 13px;
  margin-right: 6px;
}
.out {
  min-height: 24px;
  float: right;
  color: var(--soft);
}
.all {
  margin-top: 14px;
  font-size: 14px;
}
</style>
