<script setup lang="ts">
/** One line with the lanes below it: a component of its own, so that a change draws only the line it is in. */
import { computed } from "vue";

import LaneHead from "./LaneHead.vue";
import LineRow from "./LineRow.vue";
import ScriptRun from "./ScriptRun.vue";
import { lanesOf, type Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ step: Step; before?: string; root: boolean; first: boolean }>();
const script = useScript();
const lanes = computed(() => lanesOf(props.step));
const dim = computed(() => script.look.value === "rehearse" && !script.rehearsed.value.has(props.step.id));
</script>

<template>
  <LineRow :step="step" :before="before" :root="root" :first="first" />
  <div v-if="lanes.length" class="lanes" :class="{ nested: !root, dim }" :style="{ '--lanes': lanes.length }">
    <div v-for="below in lanes" :key="below.id" class="lane" role="group">
      <LaneHead :step="step" :lane="below" />
      <ScriptRun v-if="!script.folded.value.has(below.id)" :steps="below.steps" :lane="below.id" />
    </div>
  </div>
</template>

<style scoped>
.dim.lanes {
  color: var(--soft);
}
.lanes {
  display: grid;
  grid-template-columns: repeat(var(--lanes), minmax(0, 1fr));
  margin: 4px 0 4px 118px;
  border-left: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
}
.lanes.nested {
  margin: 4px 0;
}
.lane {
  padding: 8px 14px 10px;
  border-right: 1px solid var(--rule);
  min-width: 0;
}
.lane:last-child {
  border-right: 0;
}
@media (max-width: 760px) {
  .lanes {
    grid-template-columns: 1fr;
    margin-left: 20px;
  }
}
</style>
