<script setup lang="ts">
/** A button that becomes a field in which one finds and takes one of several things by typing. */
import { nextTick, ref } from "vue";

import NamePick from "./NamePick.vue";

const props = defineProps<{ words: string; label: string; among: { kind: string; label: string }[] }>();
const emit = defineEmits<{ add: [kind: string] }>();
const open = ref(false);
const typed = ref("");
const box = ref<HTMLElement>();
const button = ref<HTMLElement>();

async function start() {
  open.value = true;
  typed.value = "";
  await nextTick();
  box.value?.querySelector("input")?.focus();
}
async function take() {
  const words = typed.value.trim().toLowerCase();
  const found =
    props.among.find((one) => one.label.toLowerCase() === words) ??
    props.among.find((one) => words && one.label.toLowerCase().includes(words));
  await leave();
  if (found) emit("add", found.kind);
}
async function leave() {
  open.value = false;
  await nextTick();
  button.value?.focus();
}
</script>

<template>
  <span
    v-if="open"
    ref="box"
    @keydown.esc.stop.prevent="leave"
    @focusout="!box?.contains(($event as FocusEvent).relatedTarget as Node | null) && (open = false)">
    <NamePick v-model="typed" kind="" :label="label" :among="among.map((one) => ({ name: one.label, about: '' }))" @enter="take" />
  </span>
  <button v-else ref="button" type="button" class="link add" :aria-label="`${words} (${label})`" @click.stop="start">{{ words }}</button>
</template>

<style scoped>
.add {
  font: 13.5px var(--sans);
  color: var(--soft);
  text-decoration: none;
}
.add:hover {
  color: var(--sea);
}
</style>
