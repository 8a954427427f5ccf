<script setup lang="ts">
/** A time zone as a part of a sentence: one types a town or a country, and picks. */
import { computed, nextTick, ref } from "vue";
import { refDebounced } from "@vueuse/core";

import { api, ok, type Schemas } from "@/api/client";
import { useQuery } from "@tanstack/vue-query";
import PartButton from "./PartButton.vue";

type Zone = Schemas["ZoneOut"];
/** `none`: what is said where none is chosen. */
const props = defineProps<{ value: string; none?: string; disabled?: boolean }>();
const emit = defineEmits<{ keep: [zone: Zone] }>();
const editing = ref(false);
const typed = ref("");
const at = ref(0);
const box = ref<HTMLElement>();
const part = ref<InstanceType<typeof PartButton>>();
const q = refDebounced(typed, 150);
const { data: found } = useQuery({
  queryKey: ["zones", q],
  queryFn: () => ok(api.GET("/api/myself/zones", { params: { query: { q: q.value } } })),
  enabled: () => editing.value && q.value.length > 1,
  placeholderData: (before) => before,
});
const shown = computed(() => (typed.value.length > 1 ? (found.value ?? []) : []));
const words = computed(() => props.value.split("/").at(-1)?.replaceAll("_", " ") || props.none || "");
async function edit() {
  typed.value = "";
  at.value = 0;
  editing.value = true;
  await nextTick();
  box.value?.querySelector("input")?.focus();
}
async function close(back = true) {
  editing.value = false;
  await nextTick();
  if (back) part.value?.focus();
}
function pick(one: Zone | undefined) {
  if (!one) return;
  if (one.zone !== props.value) emit("keep", one);
  void close();
}
function left(event: FocusEvent) {
  if (!box.value?.contains(event.relatedTarget as Node | null)) void close(false);
}
const move = (by: number) => (at.value = Math.max(0, Math.min(shown.value.length - 1, at.value + by)));
</script>

<template>
  <span v-if="editing" ref="box" class="zone" @focusout="left">
    <BFormInput
      v-model="typed"
      role="combobox"
      aria-label="Time zone: a town or a country"
      aria-autocomplete="list"
      aria-controls="zones-found"
      :aria-expanded="!!shown.length"
      :aria-activedescendant="shown.length ? `zone-${at}` : undefined"
      placeholder="a town or a country"
      maxlength="80"
      @input="at = 0"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter.prevent="pick(shown[at])"
      @keydown.esc.prevent="close()" />
    <ul v-show="shown.length" id="zones-found" role="listbox" aria-label="Time zones found">
      <li
        v-for="(one, n) in shown"
        :id="`zone-${n}`"
        :key="one.zone"
        role="option"
        :aria-selected="n === at"
        @mousedown.prevent="pick(one)">
        {{ one.town }} <small class="soft">{{ one.country }} · {{ one.zone }}</small>
      </li>
    </ul>
  </span>
  <PartButton v-else ref="part" :label="`Time zone: ${value || words}`" :words="words" :disabled="disabled" @press="edit" />
</template>

<style scoped>
.zone {
  position: relative;
  display: inline-block;
}
.zone input {
  width: 15rem;
  padding: 1px 6px;
}
ul {
  position: absolute;
  z-index: 5;
  left: 0;
  top: 100%;
  min-width: 24rem;
  max-width: 92vw;
  margin: 2px 0 0;
  padding: 0;
  list-style: none;
  background: var(--paper);
  border: 1px solid var(--rule);
  font-size: 15px;
}
li {
  padding: 3px 10px;
  cursor: pointer;
}
li[aria-selected="true"] {
  background: var(--mist);
}
</style>
