<script setup lang="ts">
/** What the workflow is for, and within how long: a sentence of its head, whose parts are edited in place. */
import { computed } from "vue";

import AddPick from "@/sentences/editors/AddPick.vue";
import PartInPlace from "@/sentences/PartInPlace.vue";
import { aPart, plain } from "@/sentences/written";
import { setAt } from "./document";
import { useScript } from "./script";
import TriggerList from "./TriggerList.vue";

const props = defineProps<{ open: boolean; may: boolean }>();
const script = useScript();
const aim = computed(() => script.doc.value.aim);
const happenings = computed(() => [...script.book.value.triggers.values()].filter((trigger) => trigger.happens));
const WITHIN = aPart("within", "duration", "within how long");
const WORTH = aPart("worth", "money", "what one is worth", { empty: "what it says itself", optional: true, least: 0 });

function setPart(index: number, field: string, value: unknown) {
  script.change((draft) => {
    if (draft.aim) setAt(draft.aim.happens[index], field, value);
  });
}
function set(field: "within" | "worth", value: unknown) {
  script.change((draft) => {
    if (draft.aim) setAt(draft.aim, field, value);
  });
}
function add(kind: string) {
  const blank = script.book.value.triggers.get(kind)?.blank;
  if (!blank) return;
  script.change((draft) => {
    draft.aim ??= { happens: [], within: "30 days", worth: null };
    (draft.aim.happens as unknown[]).push(plain(blank));
  });
}
function remove(index: number) {
  script.change((draft) => {
    if (!draft.aim) return;
    draft.aim.happens.splice(index, 1);
    if (!draft.aim.happens.length) draft.aim = null;
  });
}
const taken = computed(() => props.open && aim.value);
</script>

<template>
  <template v-if="aim"
    >Reaches its aim
    <TriggerList
      :triggers="aim.happens"
      :open="open"
      :takes-out="(number) => `Take out what reaches the aim, ${number}`"
      @set="setPart"
      @remove="remove" />, within <PartInPlace :part="WITHIN" :value="aim.within" @change="set('within', $event)" /><template
      v-if="open || aim.worth !== null"
      >, each worth <PartInPlace :part="WORTH" :value="aim.worth" @change="set('worth', $event)" /></template
    >. <AddPick v-if="taken" words="or when…" label="Add what reaches the aim" :among="happenings" @add="add"
  /></template>
  <template v-else-if="may"
    ><span class="soft">No aim is named, so nobody can say what came of it.</span>
    <AddPick words="It is for when…" label="Name its aim" :among="happenings" @add="add"
  /></template>
</template>
