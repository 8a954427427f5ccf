<script setup lang="ts">
/** What a line of a letter needs beyond its words, and what is wrong with the letter. */
import { computed } from "vue";

import type { Part } from "@/sentences/written";
import WordPart from "@/shared/settings/WordPart.vue";
import { lineOf, useLetter } from "./useLetter";

defineProps<{ faults: readonly string[] }>();
const writing = useLetter();
const line = computed(() => lineOf(writing.letter.value, writing.selected.value));
const kind = computed(() => writing.kinds.get(line.value?.kind ?? ""));
const choices = computed(() => (kind.value?.parts ?? []).filter((part) => part.sort === "choice" || part.sort === "yes-no"));
const several = computed(() => (kind.value?.parts ?? []).filter((part) => part.sort === "choices"));
const asChoices = (part: Part) => (part.choices ?? []).map((one) => ({ value: String(one.value), words: one.words }));
const real = (part: Part, value: string) => part.choices?.find((one) => String(one.value) === value)?.value ?? value;
const held = (part: Part) => (line.value?.[part.field] as string[] | undefined) ?? [];
function choose(part: Part, value: string, on: boolean) {
  const order = (part.choices ?? []).map((one) => String(one.value));
  const next = order.filter((one) => (one === value ? on : held(part).includes(one)));
  if (line.value && next.length) writing.set(line.value.id, part.field, next);
}
function columns(count: number) {
  const now = line.value?.columns;
  if (!line.value || !now) return;
  writing.set(line.value.id, "columns", count > now.length ? [...now, { lines: [] }] : now.slice(0, count));
}
</script>

<template>
  <aside class="notes" aria-label="Notes">
    <template v-if="line">
      <h2>{{ kind?.label }}</h2>
      <p v-for="part in choices" :key="part.field">
        {{ part.label.charAt(0).toUpperCase() + part.label.slice(1) }}:
        <WordPart
          :key="line.id + part.field"
          :value="String(line[part.field])"
          :label="part.label"
          :choices="asChoices(part)"
          :disabled="!writing.open.value"
          @keep="writing.set(line.id, part.field, real(part, $event))" />
      </p>
      <template v-for="part in several" :key="part.field">
        <BFormCheckbox
          v-for="one in asChoices(part)"
          :key="one.value"
          :model-value="held(part).includes(one.value)"
          :disabled="!writing.open.value"
          @update:model-value="choose(part, one.value, $event === true)"
          >{{ one.words }}</BFormCheckbox
        >
      </template>
      <p v-if="line.columns && writing.open.value">
        <BButton variant="link" @click="columns(line.columns.length === 2 ? 3 : 2)">{{
          line.columns.length === 2 ? "Three columns" : "Two columns; what stands in the third goes"
        }}</BButton>
      </p>
      <p v-if="writing.open.value" class="acts">
        <BButton variant="link" @click="writing.move(line.id, -1)">Up</BButton>
        <BButton variant="link" @click="writing.move(line.id, 1)">Down</BButton>
        <BButton variant="link" @click="writing.remove(line.id)">Take this line out</BButton>
      </p>
    </template>
    <p v-else class="soft">Choose a line: what it needs beyond its words stands here.</p>
    <slot></slot>
    <ul v-if="faults.length" class="faults">
      <li v-for="one in faults" :key="one" class="gorse">▲ {{ one }}</li>
    </ul>
    <p class="soft small keys">
      <kbd>Enter</kbd> the next line · <kbd>Shift Enter</kbd> below in the same · <kbd>Alt ↑ ↓</kbd>, or dragging its name, moves it ·
      <kbd>{</kbd> a merge field · <kbd>Ctrl Z</kbd> undoes
    </p>
  </aside>
</template>

<style scoped>
.notes {
  border-left: 1px solid var(--rule);
  padding-left: 18px;
}
h2 {
  font: 600 17px var(--serif);
  margin: 0 0 8px;
}
p {
  margin: 0 0 8px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  margin-top: 12px;
}
.faults {
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
  font-size: 14px;
}
.keys {
  margin-top: 18px;
}
@media (max-width: 980px) {
  .notes {
    border: 0;
    padding: 12px 0 0;
  }
}
</style>
