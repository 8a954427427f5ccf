<script setup lang="ts">
/** A table of names and values. A whole address pasted here becomes one: what follows its question mark. */
import type { Schemas } from "@/api/client";
import { valueOf } from "@/ui/events";

interface Pair {
  name: string;
  value: string;
}
const props = defineProps<{ pairs: Pair[]; label: string; fields: Schemas["MergeFieldOut"][]; disabled?: boolean }>();
const emit = defineEmits<{ change: [pairs: Pair[]] }>();
function set(index: number, changes: Partial<Pair>) {
  emit(
    "change",
    props.pairs.map((pair, at) => (at === index ? { ...pair, ...changes } : pair)),
  );
}
function onPaste(event: ClipboardEvent) {
  const query = event.clipboardData?.getData("text").match(/^https?:\/\/[^?]*\?(.+)$/)?.[1];
  if (!query) return;
  event.preventDefault();
  emit("change", [
    ...props.pairs.filter((pair) => pair.name),
    ...[...new URLSearchParams(query)].map(([name, value]) => ({ name, value })),
  ]);
}
</script>

<template>
  <div class="pairs" @paste="onPaste">
    <template v-for="(pair, index) in pairs" :key="index">
      <input
        :value="pair.name"
        :aria-label="`${label}: name ${index + 1}`"
        :disabled="disabled"
        placeholder="name"
        @change="set(index, { name: valueOf($event) })" />
      <input
        :value="pair.value"
        :aria-label="`${label}: value ${index + 1}`"
        :disabled="disabled"
        placeholder="value, or a merge field"
        :list="`merge-${label}`"
        @change="set(index, { value: valueOf($event) })" />
      <button
        v-if="!disabled"
        class="link"
        :aria-label="`Take out ${pair.name || 'this row'}`"
        @click="
          emit(
            'change',
            pairs.filter((_, at) => at !== index),
          )
        ">
        ✕</button
      ><span v-else />
    </template>
    <button v-if="!disabled" class="link add" @click="emit('change', [...pairs, { name: '', value: '' }])">another row</button>
    <small class="soft add">An address pasted here is taken apart at its question mark.</small>
    <datalist :id="`merge-${label}`">
      <option v-for="field in fields" :key="field.path" :value="`{{ ${field.path} }}`">{{ field.label }}</option>
    </datalist>
  </div>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: 7em 1fr auto;
  gap: 4px 6px;
  align-items: center;
}
.pairs input {
  min-width: 0;
  font-size: 14px;
  padding: 3px 6px;
}
.add {
  grid-column: 1 / -1;
  justify-self: start;
}
</style>
