<script setup lang="ts">
/** A name of the account, or several with commas between, found while typing. One that is new can be made by keeping it. */
import { computed, nextTick, onMounted, ref, watch } from "vue";

import { useAround } from "@/sentences/around";

const props = defineProps<{ kind: string; label: string; several?: boolean; among?: { name: string; about: string }[] }>();
const model = defineModel<string>({ required: true });
const emit = defineEmits<{ enter: [] }>();
const around = useAround();
const marked = ref(-1);
const first = ref(""); // the name that was there when it was opened: kept as it is by Enter
const id = `names-${Math.random().toString(36).slice(2, 8)}`;
// What comes into being by being used; all else has to be there, and a check says when it is not.
const BY_ITSELF = ["tag", "list", "field", "form", "message"];

const names = computed(() => props.among ?? around.names.value[props.kind] ?? []);
const last = computed(() => (props.several ? (model.value.split(",").at(-1) ?? "") : model.value).trim());
const found = computed(() => {
  const words = last.value.toLowerCase();
  const begins = names.value.filter((one) => one.name.toLowerCase().startsWith(words));
  return [...begins, ...names.value.filter((one) => !begins.includes(one) && one.name.toLowerCase().includes(words))].slice(0, 12);
});
onMounted(() => (first.value = last.value));
const fresh = computed(() => last.value !== "" && !names.value.some((one) => one.name.toLowerCase() === last.value.toLowerCase()));
/** What is typed marks the first that fits; Enter takes it. A name that is not there yet is made by Ctrl+Enter, or by Enter
 * where nothing fits. */
watch([last, found], () => (marked.value = last.value && last.value !== first.value && found.value.length ? 0 : -1));

function put(name: string) {
  if (!props.several) model.value = name;
  else
    model.value = [
      ...model.value
        .split(",")
        .slice(0, -1)
        .map((one) => one.trim()),
      name,
    ].join(", ");
}
function take(name: string) {
  put(name);
  emit("enter");
}
/** Whoever types faster than the account's names arrive still gets the one that fits, not a new one spelt like its beginning. */
async function entered(asNew: boolean) {
  if (!asNew && !props.among && last.value !== first.value) await around.namesRead();
  await nextTick();
  const chosen = asNew ? undefined : found.value[marked.value];
  if (chosen) put(chosen.name);
  emit("enter");
}
function onKey(event: KeyboardEvent) {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, found.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, -1);
  else if (event.key === "Enter") void entered(event.ctrlKey || event.metaKey);
  else return;
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <span class="names">
    <input
      v-model="model"
      autocomplete="off"
      role="combobox"
      aria-expanded="true"
      :aria-controls="id"
      :aria-label="label"
      :aria-activedescendant="marked >= 0 ? `${id}-${marked}` : undefined"
      maxlength="400"
      :placeholder="several ? 'by comma' : ''"
      @keydown="onKey" />
    <span v-if="found.length || fresh" :id="id" class="found" role="listbox" :aria-label="label">
      <span
        v-for="(one, index) in found"
        :id="`${id}-${index}`"
        :key="one.name"
        class="one"
        role="option"
        :aria-selected="index === marked"
        :class="{ marked: index === marked }"
        @mousedown.prevent="take(one.name)"
        >{{ one.name }} <small class="soft">{{ one.about }}</small></span
      >
      <span v-if="fresh" class="one" role="option" :aria-selected="marked < 0" @mousedown.prevent="emit('enter')"
        ><template v-if="BY_ITSELF.includes(kind)">new: “{{ last }}”<kbd v-if="marked >= 0"> Ctrl Enter</kbd></template
        ><span v-else class="gorse">“{{ last }}” is not here yet</span></span
      >
    </span>
  </span>
</template>

<style scoped>
.names {
  position: relative;
  display: inline-block;
}
.found {
  position: absolute;
  left: 0;
  top: 100%;
  z-index: 8;
  min-width: 15rem;
  max-height: 260px;
  overflow: auto;
  background: var(--paper);
  border: 1px solid var(--ink);
  padding: 4px 0;
  font: 14.5px/1.4 var(--sans);
}
.one {
  display: block;
  padding: 3px 10px;
  cursor: pointer;
  color: var(--ink);
}
.one.marked {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
input {
  width: 15rem;
  max-width: 100%;
}
</style>
