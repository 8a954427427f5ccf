<script setup lang="ts">
/** A line's sentence, with its parts to be edited in place. It is drawn from the catalogue alone. */
import { computed } from "vue";

import { saysMore, type KindPart, type Step } from "./document";
import PartInPlace from "./PartInPlace.vue";
import { useScript } from "./script";

const props = defineProps<{ step: Step; afterName?: boolean }>();
const script = useScript();

/** The sentence cut into words and parts; what the page has no editors for yet stands as the core reads it. */
const pieces = computed<(string | KindPart)[]>(() => {
  const kind = script.kinds.value.get(props.step.kind);
  const read = script.readings.value.get(props.step.id)?.sentence;
  if (!kind || !script.offered.value.has(kind.kind) || saysMore(props.step)) return [read ?? kind?.label ?? props.step.kind];
  const sentence = props.afterName ? kind.sentence.charAt(0).toLowerCase() + kind.sentence.slice(1) : kind.sentence;
  return sentence.split(/(\{\w+\})/).map((piece) => {
    const field = piece.match(/^\{(\w+)\}$/)?.[1];
    return kind.parts.find((part) => part.field === field) ?? piece;
  });
});
</script>

<template>
  <template v-for="(piece, index) in pieces" :key="index"
    ><template v-if="typeof piece === 'string'">{{ piece }}</template
    ><PartInPlace v-else :step="step" :part="piece"
  /></template>
</template>
