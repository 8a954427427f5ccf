<script setup lang="ts">
/** The other wordings of a message: in turn, or each to a share of the people; what came of each, as long as its words are as they are. */
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";
import LetterInNotes from "../letter/LetterInNotes.vue";
import { fromWords, type Letter } from "../letter/useLetter";
import { MergeText } from "./mergeText";
import WordingCount from "./WordingCount.vue";
import { setAt, stepOf, type Step } from "./document";
import { useScript } from "./script";

export interface Other {
  heading: string;
  body: string;
  share?: number;
  letter?: Letter | null;
}
const props = defineProps<{
  step: Step;
  field: string;
  channel: string;
  message: { others: Other[]; by_share?: boolean; share?: number; letter?: Letter | null };
  heading: string;
  fields: Schemas["MergeFieldOut"][];
  open: boolean;
}>();
const script = useScript();
const route = useRoute();
const router = useRouter();
const others = computed(() => props.message.others);
const WAYS = [
  { value: "", words: "in turn" },
  { value: "yes", words: "by shares" },
];
const shares = computed(() => [props.message.share ?? 1, ...others.value.map((one) => one.share ?? 1)]);
const sum = computed(() => shares.value.reduce((all, one) => all + one, 0));
const part = (number: number) => (sum.value ? `${Math.round((100 * (shares.value[number] ?? 0)) / sum.value)}%` : "nobody");
const workflow = computed(() => Number(route.params.workflow ?? route.params.message));
const { data: counts } = useRead(
  "/workflows/{workflow_id}/wordings/{step}",
  () => ({ path: { workflow_id: workflow.value, step: props.step.id } }),
  { live: true, enabled: () => !!others.value.length && !!workflow.value },
);
const countOf = (number: number) => counts.value?.find((one) => one.channel === props.channel && one.number === number);
function set(path: string, value: unknown, key = true) {
  const { id } = props.step;
  script.change((doc) => setAt(stepOf(doc, id), `${props.field}.${path}`, value), key ? `${props.field}-${id}-${path}` : "");
}
function inLines(index: number) {
  set(`others.${index}.letter`, fromWords(others.value[index]?.body ?? ""), false);
  void router.push({ query: { ...route.query, letter: `${props.step.id}.${props.field}.others.${index}` } });
}
</script>

<template>
  <div v-if="others.length" class="others">
    <p class="small">
      {{ others.length + 1 }} wordings,
      <WordPart
        :value="message.by_share ? 'yes' : ''"
        label="How the wordings are given out"
        :choices="WAYS"
        :disabled="!open"
        @keep="set('by_share', $event === 'yes', false)" />
      <span class="soft">{{ message.by_share ? "the same person always reads the same one" : "who gets it again reads another" }}</span>
    </p>
    <p class="small">
      <template v-if="message.by_share"
        >The first:
        <WordPart
          :value="message.share ?? 1"
          type="number"
          label="Share of wording 1"
          :most="10000"
          :disabled="!open"
          @keep="set('share', Math.round(Number($event)), false)" />
        <span class="soft">share, {{ part(0) }}. </span></template
      ><template v-else>The first: </template><WordingCount :count="countOf(0)" />
    </p>
  </div>
  <div v-for="(other, index) in others" :key="index" class="other">
    <p class="small">
      <span class="soft">{{ message.by_share ? "Or, by share" : "Or, in turn" }} </span>
      <template v-if="message.by_share"
        ><WordPart
          :value="other.share ?? 1"
          type="number"
          :label="`Share of wording ${index + 2}`"
          :most="10000"
          :disabled="!open"
          @keep="set(`others.${index}.share`, Math.round(Number($event)), false)" />
        <span class="soft">{{ part(index + 1) }}. </span></template
      >
      <WordingCount :count="countOf(index + 1)" />
      <BButton
        v-if="open"
        variant="link"
        class="small"
        :aria-label="`take out wording ${index + 2}`"
        @click="
          set(
            'others',
            others.filter((_, at) => at !== index),
            false,
          )
        "
        >take out</BButton
      >
    </p>
    <MergeText
      v-if="heading"
      :of="`${step.id}-${field}-h${index}`"
      :model-value="other.heading"
      :label="`Subject of wording ${index + 2}`"
      :fields="fields"
      single
      :disabled="!open"
      @update:model-value="set(`others.${index}.heading`, $event)" />
    <LetterInNotes
      v-if="other.letter"
      :step="step.id"
      :field="`${field}.others.${index}`"
      :letter="other.letter"
      :open="open"
      @plain="set(`others.${index}.letter`, null, false)" />
    <template v-else
      ><MergeText
        :of="`${step.id}-${field}-o${index}`"
        :model-value="other.body"
        :label="`Wording ${index + 2}`"
        :fields="fields"
        :disabled="!open"
        @update:model-value="set(`others.${index}.body`, $event)" /><BButton
        v-if="open && other.letter === null"
        variant="link"
        class="small"
        :aria-label="`Write it as a letter, in lines: wording ${index + 2}`"
        @click="inLines(index)"
        >Write it as a letter, in lines</BButton
      ></template
    >
  </div>
</template>

<style scoped>
.others {
  border-top: 1px solid var(--rule);
  margin-top: 12px;
  padding-top: 8px;
}
.other {
  border-left: 1px solid var(--rule);
  padding-left: 10px;
  margin-top: 10px;
}
p {
  margin: 0 0 4px;
}
</style>
