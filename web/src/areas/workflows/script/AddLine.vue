<script setup lang="ts">
/** A new line, typed as words: what is typed finds the kind, the rest fills its parts. What would be written is shown. */
import { computed, nextTick, onMounted, ref, watch } from "vue";

import { useScript } from "./script";
import { made, suggestions, type Suggestion } from "./typed";
import { wordsOf, type Values } from "@/sentences/written";

defineProps<{ root: boolean }>();
const script = useScript();
const typed = ref(script.unwritten.value);
const marked = ref(0);
const field = ref<HTMLInputElement>();
const list = ref<HTMLElement>();
const kinds = computed(() => [...script.kinds.value.values()]);
const known = computed(() => ({ member: (script.names.value.member ?? []).map((one) => one.name) }));
const found = computed(() => suggestions(typed.value, kinds.value));
watch(typed, () => (marked.value = 0));
onMounted(() => {
  field.value?.focus();
  field.value?.scrollIntoView({ block: "nearest" });
});

/** The lines a suggestion would write, in words. */
function preview(one: Suggestion): string {
  if (!one.rest && !one.wait) return one.kind.finds.filter((word) => word !== one.kind.label.toLowerCase()).join(", ");
  const { steps, left } = made(one, kinds.value, known.value);
  const words = steps
    .map((step) => wordsOf(script.kinds.value.get(step.kind) as (typeof kinds.value)[number], step as unknown as Values, script.book.value))
    .join(" ");
  return left ? `${words} Not understood, and kept to be written: “${left}”.` : words;
}
function take(index: number) {
  const chosen = found.value[index];
  if (!chosen) return;
  const { steps, left } = made(chosen, kinds.value, known.value);
  script.insert(steps);
  typed.value = left;
  if (left) script.addBelow(left);
}
function onKey(event: KeyboardEvent) {
  event.stopPropagation();
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, found.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter") take(marked.value);
  else if (event.key === "Escape") leave();
  else return;
  event.preventDefault();
  void nextTick(() => list.value?.querySelector(".marked")?.scrollIntoView({ block: "nearest" }));
}
function leave() {
  script.adding.value = undefined;
  if (script.selected.value) script.select(script.selected.value, true);
}
</script>

<template>
  <div class="add" :class="{ root }" @click.stop>
    <input
      ref="field"
      v-model="typed"
      class="serif"
      role="combobox"
      aria-expanded="true"
      aria-controls="kinds-found"
      aria-label="The new line"
      :aria-activedescendant="`kind-${marked}`"
      placeholder="after 3 days text hello · ask · call ana · tag keen…"
      @keydown="onKey"
      @blur="typed === '' && (script.adding.value = undefined)" />
    <ul id="kinds-found" ref="list" role="listbox" aria-label="Kinds of line">
      <li
        v-for="(one, index) in found"
        :id="`kind-${index}`"
        :key="one.kind.kind"
        role="option"
        :aria-selected="index === marked"
        :class="{ marked: index === marked }"
        @mousedown.prevent="take(index)">
        <strong>{{ one.kind.label }}</strong> <span class="soft" :class="{ serif: one.rest || one.wait }">{{ preview(one) }}</span>
      </li>
      <li v-if="!found.length" class="soft">No kind of line is called that. Escape leaves.</li>
    </ul>
  </div>
</template>

<style scoped>
.add {
  position: relative;
  padding: 4px 0;
}
.add.root {
  padding-left: 218px;
}
input {
  scroll-margin-bottom: 350px;
  width: 100%;
  max-width: 34rem;
  font-size: 16px;
}
ul {
  position: absolute;
  z-index: 5;
  list-style: none;
  margin: 2px 0 0;
  padding: 4px 0;
  background: var(--paper);
  border: 1px solid var(--ink);
  width: min(34rem, 90vw);
  max-height: 330px;
  overflow: auto;
}
li {
  padding: 4px 12px;
  cursor: pointer;
}
li.marked {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
@media (max-width: 760px) {
  .add.root {
    padding-left: 0;
  }
}
</style>
