<script setup lang="ts">
/** One editable part of a sentence: words until it is chosen, then an editor of its sort in the same place.
 * Enter keeps, Escape leaves it as it was. Messages and long texts are edited in the notes column. */
import { computed, nextTick, ref } from "vue";

import { stepOf, type KindPart, type Step } from "./document";
import { useScript } from "./script";
import { duration } from "./typed";

const props = defineProps<{ step: Step; part: KindPart }>();
const script = useScript();
const editing = ref(false);
const typed = ref("");
const amount = ref(1);
const unit = ref("day");
const field = ref<HTMLElement>();
const button = ref<HTMLElement>();
const UNITS = ["second", "minute", "hour", "day", "week", "month"];

const value = computed(() => (props.step as unknown as Record<string, unknown>)[props.part.field]);
const words = computed(() => {
  const now = value.value;
  if (props.part.sort === "message") return (now as { name: string }).name || `a new ${props.step.kind}`;
  if (Array.isArray(now)) return now.join(", ") || props.part.empty;
  return now === null || now === "" ? props.part.empty : String(now);
});
/** The words cut at their merge fields, which are shown by name. */
const pieces = computed(() =>
  words.value.split(/(\{\{[^}]*\}\})/).map((piece) => {
    const field = piece.match(/^\{\{\s*([\w.]+)/)?.[1];
    return { merge: !!field, words: field ? (script.fields.value.get(field) ?? field) : piece };
  }),
);
const inNotes = computed(() => ["message", "text", "line", "condition"].includes(props.part.sort));
const open = computed(() => script.look.value === "write" && script.mayWrite.value);

async function edit() {
  if (!open.value) return;
  script.select(props.step.id);
  if (inNotes.value) {
    await nextTick();
    document.querySelector<HTMLElement>(`#notes [data-field="${props.part.field}"] [contenteditable], #notes [data-field="${props.part.field}"] input`)?.focus();
    return;
  }
  typed.value = value.value === null ? "" : String(value.value);
  if (props.part.sort === "duration") {
    const [number, name] = String(value.value).split(" ");
    amount.value = Number(number);
    unit.value = (name ?? "day").replace(/s$/, "");
  }
  editing.value = true;
  await nextTick();
  field.value?.focus();
  if (field.value instanceof HTMLInputElement && field.value.type !== "time") field.value.select();
}
function parsed(): unknown {
  switch (props.part.sort) {
    case "duration":
      return duration(`${amount.value} ${unit.value}`) ?? value.value;
    case "time":
      return typed.value === "" ? null : typed.value;
    case "count":
      return Math.min(9, Math.max(1, Number(typed.value) || 1));
    default:
      return typed.value.trim();
  }
}
async function keep(back = true) {
  if (!editing.value) return;
  const next = parsed();
  editing.value = false;
  if (next !== value.value) {
    script.change((doc) => {
      const step = stepOf(doc, props.step.id) as unknown as Record<string, unknown> | undefined;
      if (step) step[props.part.field] = next;
    });
  }
  if (back) {
    await nextTick();
    button.value?.focus();
  }
}
async function leave() {
  editing.value = false;
  await nextTick();
  button.value?.focus();
}
function onBlur(event: FocusEvent) {
  const inside = (event.currentTarget as HTMLElement).contains(event.relatedTarget as Node | null);
  if (!inside) keep(false);
}
</script>

<template>
  <span v-if="editing" class="edit" @focusout="onBlur" @keydown.stop.enter.prevent="keep()" @keydown.stop.esc.prevent="leave" @keydown.stop @click.stop>
    <template v-if="part.sort === 'duration'">
      <input ref="field" v-model.number="amount" type="number" min="0" max="9999" :aria-label="part.label" />
      <select v-model="unit" aria-label="unit"><option v-for="one in UNITS" :key="one" :value="one">{{ one }}{{ amount === 1 ? "" : "s" }}</option></select>
    </template>
    <input v-else-if="part.sort === 'time'" ref="field" v-model="typed" type="time" :aria-label="part.label" />
    <input v-else-if="part.sort === 'count'" ref="field" v-model="typed" type="number" min="1" max="9" :aria-label="part.label" />
    <template v-else-if="part.sort === 'tag'">
      <input ref="field" v-model="typed" :list="`tags-${step.id}`" maxlength="80" :aria-label="part.label" />
      <datalist :id="`tags-${step.id}`"><option v-for="tag in script.tags.value" :key="tag" :value="tag" /></datalist>
    </template>
    <input v-else ref="field" v-model="typed" :aria-label="part.label" />
  </span>
  <span
    v-else ref="button" class="part" :class="{ blank: words === '…', open }" :role="open ? 'button' : undefined" :tabindex="open ? 0 : undefined"
    :aria-label="open ? `${part.label}: ${pieces.map((piece) => piece.words).join('')}` : undefined" @click.stop="edit" @keydown.enter.prevent.stop="edit" @keydown.space.prevent.stop="edit"
  ><template v-for="(piece, n) in pieces" :key="n"><span v-if="piece.merge" class="merge">{{ piece.words }}</span><template v-else>{{ piece.words }}</template></template></span>
</template>

<style scoped>
.merge { background: #e3ebe8; padding: 0 3px; }
.part.open { text-decoration: underline; text-decoration-color: var(--sea); text-decoration-thickness: 1px; text-underline-offset: 3px; cursor: pointer; }
.part.open:hover { background: #dfe9e6; }
.part.blank { color: var(--rust); padding: 0 6px; }
.edit input, .edit select { font-size: 15px; padding: 1px 5px; margin: 0 2px; }
.edit input[type="number"] { width: 4.6em; }
</style>
