<script setup lang="ts">
/** A changeable part of a sentence that names some of several: underlined words; pressed, each can be pressed in or out. */
import { nextTick, ref } from "vue";

import ToggleEdit from "@/sentences/editors/ToggleEdit.vue";

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
const part = ref<{ $el: HTMLElement }>();
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
  if (back) part.value?.$el.focus();
}
function left(event: FocusEvent) {
  if (!box.value?.contains(event.relatedTarget as Node | null)) void close(true, false);
}
</script>

<template>
  <span v-if="editing" ref="box" class="some" role="group" :aria-label="label" @focusout="left" @keydown.esc.prevent.stop="close(false)"
    ><ToggleEdit v-model="own" :choices="choices" needed /><BButton variant="link" class="small" @click="close(true)">done</BButton></span
  >
  <BButton v-else ref="part" variant="link" class="some-part" :aria-label="`${label}: ${words}`" :disabled="disabled" @click="edit">{{
    words
  }}</BButton>
</template>

<style scoped>
.some {
  font-family: var(--sans);
  font-size: 14px;
}
.some-part {
  display: inline;
  vertical-align: baseline;
  font: inherit;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 1px solid var(--sea);
  border-radius: 0;
  line-height: 1.3;
}
.some-part:hover {
  background: var(--mist);
}
.some-part:disabled {
  opacity: 1;
  border-bottom-color: transparent;
}
</style>
