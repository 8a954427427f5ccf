<script setup lang="ts">
/** A line's sentence, drawn from the catalogue alone. */
import { computed } from "vue";

import SentenceParts from "@/sentences/SentenceParts.vue";
import { setAt, stepOf, type Step } from "./document";
import { useScript } from "./script";
import type { Values } from "@/sentences/written";

const props = defineProps<{ step: Step; afterName?: boolean }>();
const script = useScript();
const kind = computed(() => script.kinds.value.get(props.step.kind));
const stands = computed(() => script.readings.value.get(props.step.id)?.stands_for);
function change(field: string, value: unknown) {
  script.change((doc) => setAt(stepOf(doc, props.step.id), field, value));
}
</script>

<template>
  <SentenceParts
    v-if="kind"
    :sentence="kind"
    :values="step as unknown as Values"
    :stands="stands"
    :within="step.id"
    :small="afterName"
    @change="change" />
</template>
