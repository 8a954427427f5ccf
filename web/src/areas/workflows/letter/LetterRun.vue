<script setup lang="ts">
/** Lines of a letter below each other, and where the next is written: typing finds its kind, else it is a paragraph. */
import { computed, ref } from "vue";

import LetterLine from "./LetterLine.vue";
import { useLetter, type Line, type Run } from "./useLetter";

const props = defineProps<{ lines: Line[]; run: Run }>();
const writing = useLetter();
const typed = ref("");
const marked = ref(-1);
const kinds = computed(() => [...writing.kinds.values()].filter((kind) => !props.run || kind.kind !== "columns"));
const found = computed(() => {
  const words = typed.value.trim().toLowerCase();
  return words && !words.includes(" ")
    ? kinds.value.filter((kind) => [kind.label, ...kind.finds].some((word) => word.startsWith(words)))
    : [];
});
const chosen = computed(() => found.value[Math.max(0, marked.value)]);
function take(kind: string, values = {}) {
  writing.add({ run: props.run }, kind, values);
  typed.value = "";
  marked.value = -1;
}
/** A kind's name alone makes a line of it; anything else is the words of a paragraph. */
function write() {
  const text = typed.value.trim();
  if (chosen.value) take(chosen.value.kind);
  else if (text) take("paragraph", { words: text.replace(/[\\*_[\]&]/g, "\\$&") });
}
const end = computed(() => (props.run ? `${props.run.line}-${props.run.column}` : "end"));
function onKey(event: KeyboardEvent) {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, found.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter") write();
  else if (event.key === "Escape") typed.value = "";
  else return;
  event.preventDefault();
}
</script>

<template>
  <div class="run">
    <LetterLine v-for="line in lines" :key="line.id" :line="line" :class="{ aim: writing.aim.value === line.id }" />
    <div
      v-if="writing.open.value"
      class="next"
      :class="{ aim: writing.aim.value === end }"
      @dragover="writing.over($event, end)"
      @drop="writing.drop($event, { run })">
      <BFormInput
        v-model="typed"
        role="combobox"
        aria-autocomplete="list"
        :aria-expanded="found.length > 0"
        :aria-label="run ? `The next line of column ${run.column + 1}` : 'The next line of the letter'"
        :placeholder="run ? 'the next line, or its kind…' : 'Write the next line, or its kind: heading, button, list…'"
        maxlength="4000"
        @keydown="onKey"
        @blur="typed.includes(' ') && write()" />
      <ul v-if="found.length" role="listbox" aria-label="Kinds of line">
        <li
          v-for="(kind, at) in found"
          :key="kind.kind"
          role="option"
          :aria-selected="kind === chosen"
          :class="{ marked: kind === chosen }"
          @mousedown.prevent="take(kind.kind)"
          @mouseenter="marked = at">
          {{ kind.label }}
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.aim {
  box-shadow: 0 -2px 0 var(--sea);
}
.next {
  position: relative;
  padding-left: 90px;
}
.next :deep(input) {
  width: 100%;
  border: 0;
  background: transparent;
  padding: 4px 0;
  font: 16px var(--serif);
}
.run .run .next {
  padding-left: 0;
}
ul {
  position: absolute;
  z-index: 6;
  list-style: none;
  margin: 0;
  padding: 4px 0;
  min-width: 12rem;
  background: var(--paper);
  border: 1px solid var(--ink);
}
li {
  padding: 3px 12px;
  cursor: pointer;
}
li.marked {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
@media (max-width: 700px) {
  .next {
    padding-left: 0;
  }
}
</style>
