<script setup lang="ts">
/** A line of a letter, written in place: its kind in the ruler, its words, and where it leads. */
import { computed } from "vue";

import { MergeText } from "../script/mergeText";
import PictureEdit from "./PictureEdit.vue";
import LetterRun from "./LetterRun.vue";
import { useLetter, type Line } from "./useLetter";

/** It is not told its place, so that of sixty lines none is drawn anew when another comes to stand above it. */
const props = defineProps<{ line: Line }>();
const writing = useLetter();
const kind = computed(() => writing.kinds.get(props.line.kind));
const parts = computed(() =>
  (kind.value?.parts ?? []).filter((part) => ["rich", "things", "line", "address", "picture", "html"].includes(part.sort)),
);
const isSelected = computed(() => writing.selected.value === props.line.id);
/** What the line says by itself, where nothing is written in it. */
const BY_ITSELF: Record<string, string> = {
  rule: "a rule across the letter",
  hours: "the opening hours of the business, as they stand in Set-up when it goes",
  appointment: "what, when and where the appointment is, and the link to confirm, move or cancel it",
};
const says = computed(() => {
  const which = props.line.which as string[] | undefined;
  const words = kind.value?.parts.find((part) => part.field === "which")?.choices ?? [];
  return which ? which.map((one) => words.find((choice) => choice.value === one)?.words ?? one).join(", ") : BY_ITSELF[props.line.kind];
});
const textOf = (field: string) => {
  const value = props.line[field];
  return Array.isArray(value) ? value.join("\n") : String((value as string | undefined) ?? "");
};
const set = (field: string, sort: string, text: string) => writing.set(props.line.id, field, sort === "things" ? text.split("\n") : text);
const isRich = (sort: string) => sort === "rich" || sort === "things";
function drag(event: DragEvent) {
  event.stopPropagation();
  event.dataTransfer?.setData("text/plain", props.line.id);
  writing.dragged.value = props.line.id;
}
function onKey(event: KeyboardEvent) {
  if (!writing.open.value || !event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
  event.preventDefault();
  event.stopPropagation();
  writing.move(props.line.id, event.key === "ArrowUp" ? -1 : 1);
}
</script>

<template>
  <div
    class="line"
    :class="{ selected: isSelected }"
    :data-line="line.id"
    role="group"
    :aria-label="kind?.label"
    @focusin.stop="writing.selected.value = line.id"
    @keydown="onKey"
    @dragover="writing.over($event, line.id)"
    @drop="writing.drop($event, { before: line.id })">
    <BButton
      variant="link"
      class="kind small"
      :aria-pressed="isSelected"
      :draggable="writing.open.value"
      @click="writing.selected.value = line.id"
      @dragstart="drag"
      @dragend="writing.dragged.value = writing.aim.value = ''"
      >{{ kind?.label }}</BButton
    >
    <div class="words">
      <p v-if="says" class="says soft">{{ says }}</p>
      <template v-for="part in parts" :key="part.field">
        <MergeText
          v-if="isRich(part.sort)"
          :of="writing.at(line.id) + part.field"
          :model-value="textOf(part.field)"
          :label="`${kind?.label}: ${part.label}`"
          :fields="writing.fields.value"
          rich
          :single="line.kind === 'button' || line.kind === 'heading'"
          :many="part.sort === 'things'"
          :autofocus="writing.fresh.value === line.id && part === parts[0]"
          :disabled="!writing.open.value"
          :class="[line.kind, part.field, String(line.size ?? '')]"
          @next="writing.add({ below: line.id }, 'paragraph')"
          @erase="writing.remove(line.id)"
          @update:model-value="set(part.field, part.sort, $event)" />
        <PictureEdit
          v-else-if="part.sort === 'picture'"
          :address="textOf(part.field)"
          :label="kind?.label ?? ''"
          :disabled="!writing.open.value"
          @change="set(part.field, part.sort, $event)" />
        <BFormTextarea
          v-else-if="part.sort === 'html'"
          :model-value="textOf(part.field)"
          class="pasted"
          rows="8"
          placeholder="<p>Paste it here: what can be run, or asks for something when it is opened, is left out.</p>"
          :aria-label="`${kind?.label}: ${part.label}`"
          maxlength="200000"
          :disabled="!writing.open.value"
          @update:model-value="set(part.field, part.sort, String($event))" />
        <label v-else class="small"
          ><span class="soft">{{ part.label }} </span
          ><BFormInput
            :model-value="textOf(part.field)"
            :placeholder="part.empty"
            :aria-label="`${kind?.label}: ${part.label}`"
            maxlength="1000"
            :disabled="!writing.open.value"
            @update:model-value="set(part.field, part.sort, String($event))"
        /></label>
      </template>
      <div v-if="line.columns" class="beside" :style="{ '--columns': line.columns.length }">
        <LetterRun v-for="(column, at) in line.columns" :key="at" :lines="column.lines" :run="{ line: line.id, column: at }" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  column-gap: 14px;
  padding: 3px 0;
  border-left: 3px solid transparent;
}
.line.selected {
  background: var(--mist);
  border-left-color: var(--sea);
}
.kind {
  text-align: right;
  text-decoration: none;
  color: var(--soft);
  padding-top: 4px;
  align-self: start;
}
.selected > .kind {
  color: var(--ink);
  font-weight: 600;
}
.words {
  font: 17px/1.45 var(--serif);
  min-width: 0;
}
.says {
  margin: 2px 0;
}
.words :deep(.heading .writing) {
  font: 600 24px/1.25 var(--serif);
}
.words :deep(.heading.small .writing) {
  font-size: 19px;
}
.words :deep(.quotation .writing) {
  font-style: italic;
}
.words :deep(.button .writing) {
  font-weight: 600;
}
.words :deep(.pasted) {
  font:
    13px/1.45 ui-monospace,
    monospace;
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
label :deep(input) {
  flex: 1;
  min-height: 26px;
  padding: 0 2px;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: transparent;
}
.beside {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  gap: 18px;
}
.beside .line {
  grid-template-columns: minmax(0, 1fr);
}
.beside .kind {
  text-align: left;
}
@media (max-width: 700px) {
  .line {
    grid-template-columns: minmax(0, 1fr);
  }
  .kind {
    text-align: left;
  }
}
</style>
