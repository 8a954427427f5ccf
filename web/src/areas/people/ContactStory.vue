<script setup lang="ts">
/** All that happened to a contact, filtered by sort, workflow and words; of each message, why it went out. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";

const props = defineProps<{ story: Schemas["StoryItem"][]; enrolments: Schemas["EnrolmentRow"][] }>();
type Kind = Schemas["StoryItem"]["kind"];
const KINDS: [string, Kind[]][] = [
  ["everything", ["event", "message", "reply", "reason"]],
  ["what was said", ["message", "reply"]],
  ["what happened", ["event", "reply"]],
  ["the reasons", ["reason"]],
];
const kinds = ref<Kind[]>(KINDS[0]?.[1] ?? []);
const inWorkflow = ref(0);
const holding = ref("");
const workflowsOf = computed(() => [...new Map(props.enrolments.map((one) => [one.workflow_id, one.workflow]))]);
const enrolmentsIn = computed(() => new Set(props.enrolments.filter((one) => one.workflow_id === inWorkflow.value).map((one) => one.id)));
const shown = computed(() =>
  props.story.filter(
    (item) =>
      kinds.value.includes(item.kind) &&
      (!inWorkflow.value || enrolmentsIn.value.has(item.enrolment)) &&
      (!holding.value || `${item.sentence} ${item.detail}`.toLowerCase().includes(holding.value.toLowerCase())),
  ),
);
/** The message whose reasons are shown, as its place in what is shown. */
const why = ref(-1);
/** Why a message came: what its line decided, then all that its enrolment decided before, the newest first. */
function reasonsOf(message: Schemas["StoryItem"]) {
  const own = props.story.filter((item) => item.kind === "reason" && item.enrolment === message.enrolment && item.at <= message.at);
  const here = own.findIndex((item) => item.step === message.step);
  return here < 0 ? own : own.slice(here);
}
</script>

<template>
  <div class="row filters">
    <h2>What happened</h2>
    <span class="grow" />
    <FormRow label="Which things" hides-label
      ><BFormSelect v-model="kinds"
        ><option v-for="[label, some] in KINDS" :key="label" :value="some">{{ label }}</option></BFormSelect
      ></FormRow
    >
    <FormRow v-if="workflowsOf.length" label="Of which workflow" hides-label
      ><BFormSelect v-model="inWorkflow"
        ><option :value="0">in any workflow</option>
        <option v-for="[number, name] in workflowsOf" :key="number" :value="number">{{ name }}</option></BFormSelect
      ></FormRow
    >
    <FormRow label="With the words" hides-label><BFormInput v-model.trim="holding" type="search" placeholder="with the words" /></FormRow>
  </div>
  <ol class="story">
    <li v-for="(item, index) in shown" :key="index" :class="item.kind">
      <time class="soft">{{ item.local_at }}</time>
      <div>
        <span class="what">{{ item.sentence }}</span>
        <small v-if="item.by" class="soft"> by {{ item.by }}</small>
        <small v-if="item.workflow" class="soft"> · {{ item.workflow }}</small>
        <small v-if="Object.keys(item.values).length" class="soft values">
          ·
          <template v-for="(value, name, number) in item.values" :key="name"
            >{{ number ? ", " : "" }}{{ String(name).replace("_", " ") }}: {{ value }}</template
          ></small
        >
        <BButton
          v-if="item.kind === 'message' && item.enrolment"
          variant="link"
          class="small why"
          :aria-expanded="why === index"
          @click="why = why === index ? -1 : index"
          >why?</BButton
        >
        <blockquote v-if="item.detail">{{ item.detail }}</blockquote>
        <ol v-if="why === index && item.kind === 'message'" class="because" aria-label="Why it went out">
          <li v-for="(reason, number) in reasonsOf(item)" :key="number">
            <small class="soft">{{ reason.local_at }}</small> {{ reason.sentence
            }}<small v-if="Object.keys(reason.values).length" class="soft">
              ·
              <template v-for="(value, name, place) in reason.values" :key="name"
                >{{ place ? ", " : "" }}{{ String(name).replace("_", " ") }}: {{ value }}</template
              ></small
            >
          </li>
        </ol>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.story {
  list-style: none;
  padding: 0;
  margin: 8px 0;
  border-top: 1px solid var(--ink);
}
.filters select,
.filters input {
  font-size: 13.5px;
  padding-block: 2px;
  padding-left: 5px;
  max-width: 12em;
}
.why {
  margin-left: 8px;
}
.because {
  list-style: none;
  margin: 4px 0 6px;
  padding: 4px 0 4px 12px;
  border-left: 3px solid var(--sea);
  font: 14.5px/1.4 var(--serif);
}
.because li {
  display: block;
  border: 0;
  padding: 2px 0;
}
.story > li {
  display: grid;
  grid-template-columns: 128px 1fr;
  gap: 14px;
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
}
.story time {
  font-size: 13.5px;
  padding-top: 1px;
}
.reason .what {
  color: var(--soft);
  font: italic 15px var(--serif);
}
.event .what {
  font-weight: 600;
}
.reply .what {
  font-weight: 600;
  color: var(--thrift);
}
.message .what {
  font-weight: 600;
  color: var(--sea);
}
blockquote {
  margin: 3px 0 2px;
  font: 15.5px/1.45 var(--serif);
  white-space: pre-line;
  overflow-wrap: anywhere;
}
@media (max-width: 760px) {
  .story > li {
    grid-template-columns: 1fr;
    gap: 0;
  }
}
</style>
