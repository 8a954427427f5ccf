<script setup lang="ts">
/** A run of lines: the script itself, or one lane of it. Where the way divides, lanes stand side by side below the line. */
import { computed } from "vue";

import AddLine from "./AddLine.vue";
import LaneHead from "./LaneHead.vue";
import LineRow from "./LineRow.vue";
import { lanesOf, type Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ steps: Step[]; lane: string }>();
const script = useScript();
const root = computed(() => props.lane === "");
/** Where a new line is typed in this run, if it is here. */
const addAt = computed(() => (script.adding.value?.lane === props.lane ? script.adding.value.index : -1));
const mayAdd = computed(() => script.look.value === "write" && script.mayWrite.value);
const dim = (step: Step) => script.look.value === "rehearse" && !script.rehearsed.value.has(step.id);
const words = computed(() => (root.value ? "Write the next line…" : props.steps.length ? "…" : "Nothing happens here; write a line…"));
</script>

<template>
  <template v-for="(step, index) in steps" :key="step.id">
    <AddLine v-if="addAt === index" :root="root" />
    <LineRow :step="step" :before="steps[index - 1]" :root="root" :first="root && index === 0" />
    <div v-if="lanesOf(step).length" class="lanes" :class="{ nested: !root, dim: dim(step) }" :style="{ '--lanes': lanesOf(step).length }">
      <div v-for="below in lanesOf(step)" :key="below.id" class="lane" role="group">
        <LaneHead :step="step" :lane="below" />
        <ScriptRun v-if="!script.folded.value.has(below.id)" :steps="below.steps" :lane="below.id" />
      </div>
    </div>
  </template>
  <AddLine v-if="addAt === steps.length" :root="root" />
  <button v-else-if="mayAdd" class="next serif" :class="{ root }" :aria-label="root ? 'Write the next line' : 'Write a line in this lane'" @click.stop="script.adding.value = { lane, index: steps.length }">{{ words }}</button>
</template>

<style scoped>
.dim.lanes { color: var(--soft); }
.lanes { display: grid; grid-template-columns: repeat(var(--lanes), minmax(0, 1fr)); margin: 4px 0 4px 118px; border-left: 1px solid var(--rule); border-bottom: 1px solid var(--rule); }
.lanes.nested { margin: 4px 0; }
.lane { padding: 8px 14px 10px; border-right: 1px solid var(--rule); min-width: 0; }
.lane:last-child { border-right: 0; }
.next { display: block; background: none; border: 0; color: var(--soft); font: 16px var(--serif); padding: 4px 0; text-align: left; width: 100%; font-weight: 400; }
.next:hover { background: none; color: var(--sea); }
.next.root { margin-left: 118px; padding: 9px 0 9px 100px; width: auto; border-left: 1px solid var(--rule); }
@media (max-width: 760px) {
  .lanes { grid-template-columns: 1fr; margin-left: 20px; }
  .next.root { margin-left: 84px; padding-left: 0; border-left: 0; }
}
</style>
