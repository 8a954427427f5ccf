<script setup lang="ts">
/** A run of lines: the script itself, or one lane of it. */
import { computed } from "vue";

import AddLine from "./AddLine.vue";
import ScriptStep from "./ScriptStep.vue";
import type { Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ steps: Step[]; lane: string }>();
const script = useScript();
const root = computed(() => props.lane === "");
/** Where a new line is typed in this run, if it is here. */
const addAt = computed(() => (script.adding.value?.lane === props.lane ? script.adding.value.index : -1));
const mayAdd = computed(() => script.look.value === "write" && script.mayWrite.value);
const words = computed(() => (root.value ? "Write the next line…" : props.steps.length ? "…" : "Nothing happens here; write a line…"));
</script>

<template>
  <template v-for="(step, index) in steps" :key="step.id">
    <AddLine v-if="addAt === index" :root="root" />
    <ScriptStep :step="step" :before="steps[index - 1]?.id" :root="root" :first="root && index === 0" />
  </template>
  <AddLine v-if="addAt === steps.length" :root="root" />
  <button
    v-else-if="mayAdd"
    class="next serif"
    :class="{ root }"
    :aria-label="root ? 'Write the next line' : 'Write a line in this lane'"
    @click.stop="script.adding.value = { lane, index: steps.length }">
    {{ words }}
  </button>
</template>

<style scoped>
.next {
  display: block;
  background: none;
  border: 0;
  color: var(--soft);
  font: 16px var(--serif);
  padding: 4px 0;
  text-align: left;
  width: 100%;
  font-weight: 400;
}
.next:hover {
  background: none;
  color: var(--sea);
}
.next.root {
  margin-left: 118px;
  padding: 9px 0 9px 100px;
  width: auto;
  border-left: 1px solid var(--rule);
}
@media (max-width: 760px) {
  .next.root {
    margin-left: 84px;
    padding-left: 0;
    border-left: 0;
  }
}
</style>
