<script setup lang="ts">
/** A new line, typed as words: what is typed finds the kind, the rest of it fills the first part. */
import { computed, onMounted, ref, watch } from "vue";

import { useScript } from "./script";
import { made, suggestions } from "./typed";

defineProps<{ root: boolean }>();
const script = useScript();
const typed = ref("");
const marked = ref(0);
const field = ref<HTMLInputElement>();
const found = computed(() => suggestions(typed.value, [...script.kinds.value.values()].filter((kind) => script.offered.value.has(kind.kind))));
watch(typed, () => (marked.value = 0));
onMounted(() => field.value?.focus());

function take(index: number) {
  const chosen = found.value[index];
  if (chosen) script.insert(made(chosen));
}
function onKey(event: KeyboardEvent) {
  event.stopPropagation();
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, found.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter") take(marked.value);
  else if (event.key === "Escape") script.adding.value = undefined;
  else return;
  event.preventDefault();
}
</script>

<template>
  <div class="add" :class="{ root }" @click.stop>
    <input
      ref="field" v-model="typed" class="serif" role="combobox" aria-expanded="true" aria-controls="kinds-found" aria-label="The new line"
      :aria-activedescendant="`kind-${marked}`" placeholder="type: text, wait 3 days, ask, call…" @keydown="onKey" @blur="typed === '' && (script.adding.value = undefined)"
    />
    <ul id="kinds-found" role="listbox" aria-label="Kinds of line">
      <li v-for="(one, index) in found" :id="`kind-${index}`" :key="one.kind.kind" role="option" :aria-selected="index === marked" :class="{ marked: index === marked }" @mousedown.prevent="take(index)">
        <strong>{{ one.kind.label }}</strong> <span class="soft">{{ one.rest || one.kind.finds.filter((word) => word !== one.kind.label.toLowerCase()).join(", ") }}</span>
      </li>
      <li v-if="!found.length" class="soft">No kind of line is called that. Escape leaves.</li>
    </ul>
  </div>
</template>

<style scoped>
.add { position: relative; padding: 4px 0; }
.add.root { padding-left: 218px; }
input { width: 100%; max-width: 30rem; font-size: 16px; }
ul { position: absolute; z-index: 5; list-style: none; margin: 2px 0 0; padding: 4px 0; background: var(--paper); border: 1px solid var(--ink); width: min(24rem, 90vw); max-height: 330px; overflow: auto; }
li { padding: 4px 12px; cursor: pointer; }
li.marked { background: var(--mist); box-shadow: inset 3px 0 0 var(--sea); }
@media (max-width: 760px) { .add.root { padding-left: 0; } }
</style>
