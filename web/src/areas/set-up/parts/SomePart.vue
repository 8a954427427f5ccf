<script setup lang="ts">
/** A changeable part of a sentence that names some of several: underlined words; pressed, each can be pressed in or out. */
import { nextTick, ref } from "vue";

import ToggleEdit from "@/sentences/editors/ToggleEdit.vue";
import PartButton from "@/shared/settings/PartButton.vue";

const props = defineProps<{
  value: readonly string[];
  label: string;
  words: string;
  choices: { value: string; words: string; spoken?: string }[];
  disabled?: boolean;
}>();
const emit = defineEmits<{ keep: [value: string[]] }>();
const editing = ref(false);
const own = ref<string[]>([]);
const box = ref<HTMLElement>();
const part = ref<InstanceType<typeof PartButton>>();
async function edit() {
  own.value = [...props.value];
  editing.value = true;
  await nextTick();
  box.value?.querySelector("button")?.focus();
}
async function close(keeps: boolean, back = true) {
  if (!editing.value) return;
  editing.value = false;
  if (keeps && own.value.join() !== props.value.join()) emit("keep", [...own.value]);
  await nextTick();
  if (back) part.value?.focus();
}
function left(event: FocusEvent) {
  if (!box.value?.contains(event.relatedTarget as Node | null)) void close(true, false);
}
</script>

<template>
  <span v-if="editing" ref="box" class="some" role="group" :aria-label="label" @focusout="left" @keydown.esc.prevent.stop="close(false)"
    ><ToggleEdit v-model="own" :choices="choices" needed /><BButton variant="link" class="small" @click="close(true)">done</BButton></span
  >
  <PartButton v-else ref="part" :label="`${label}: ${words}`" :words="words" :disabled="disabled" @press="edit" />
</template>

<style scoped>
.some {
  font-family: var(--sans);
  font-size: 14px;
}
</style>
