<script setup lang="ts">
/** A changeable part of a sentence: underlined words, which are a field in place. What is typed is kept when one leaves it or
 * presses Enter, and Escape leaves it as it was; what is chosen is kept at once. */
import { ref, watch } from "vue";

import { timeOfDay } from "@/sentences/times";

const props = withDefaults(
  defineProps<{
    value: string | number | null;
    label: string;
    /** Words of more than a line. */
    long?: boolean;
    type?: "text" | "time" | "date" | "number" | "email" | "url" | "tel";
    choices?: readonly { value: string; words: string }[];
    empty?: string;
    most?: number;
    least?: number;
    fault?: string;
    disabled?: boolean;
  }>(),
  { type: "text", choices: undefined, empty: "", most: 200, least: undefined, fault: "" },
);
const emit = defineEmits<{ keep: [value: string] }>();
const typed = ref("");
/** A date that is empty says so in its own words until somebody comes to it. */
const entered = ref(false);
/** What was typed and kept: it may be said otherwise then, as +5 for 5. */
let kept: string | undefined;
const asText = (value: string | number | null) => (value === null ? "" : String(value));
watch(
  () => props.value,
  (now, before) => {
    // What is being typed stays when the value is read again meanwhile.
    if (before === undefined || typed.value === asText(before) || typed.value === kept) typed.value = asText(now);
    kept = undefined;
  },
  { immediate: true },
);
function keep() {
  // A time is written as everywhere, by the clock of 24 hours, however it is typed; what is none is left as it was.
  if (props.type === "time") typed.value = timeOfDay(typed.value) ?? asText(props.value);
  if (typed.value === asText(props.value)) return;
  kept = typed.value;
  emit("keep", typed.value);
}
/** Leaving the field, after Enter has kept it already. */
function left() {
  if (typed.value !== kept) keep();
}
function leave(event: KeyboardEvent) {
  typed.value = asText(props.value);
  if (event.currentTarget instanceof HTMLElement) event.currentTarget.blur();
}
function choose(value: string) {
  typed.value = value;
  keep();
}
</script>

<template>
  <BFormSelect
    v-if="choices"
    class="word-part"
    :model-value="typed"
    :aria-label="label"
    :aria-invalid="fault ? true : undefined"
    :disabled="disabled"
    @update:model-value="choose(String($event))">
    <option v-for="one in choices" :key="one.value" :value="one.value">{{ one.words }}</option>
  </BFormSelect>
  <BFormTextarea
    v-else-if="long"
    v-model="typed"
    class="word-part long"
    rows="1"
    :aria-label="label"
    :placeholder="empty"
    :maxlength="most"
    :disabled="disabled"
    @change="left"
    @keydown.enter.prevent="keep"
    @keydown.esc.prevent="leave" />
  <BFormInput
    v-else
    v-model="typed"
    class="word-part"
    :class="type"
    :type="type === 'time' || (type === 'date' && !typed && !entered) ? 'text' : type"
    :inputmode="type === 'time' ? 'numeric' : undefined"
    :aria-label="label"
    :aria-invalid="fault ? true : undefined"
    :placeholder="empty"
    :maxlength="type === 'number' ? undefined : most"
    :min="type === 'number' ? (least ?? 0) : undefined"
    :max="type === 'number' ? most : undefined"
    :disabled="disabled"
    @focus="entered = true"
    @blur="entered = false"
    @change="left"
    @keydown.enter.prevent="keep"
    @keydown.esc.prevent="leave" />
</template>

<style scoped>
.word-part {
  display: inline-block;
  width: auto;
  max-width: 100%;
  field-sizing: content;
  min-width: 2.2em;
  min-height: 26px;
  font: inherit;
  line-height: 1.3;
  color: var(--ink);
  background-color: transparent;
  border: 0;
  border-radius: 0;
  border-bottom: 1px solid var(--sea);
  padding: 0 1px;
  vertical-align: baseline;
}
.word-part.long {
  vertical-align: top;
  resize: none;
}
select.word-part {
  appearance: none;
  background-image: none;
  cursor: pointer;
  text-overflow: clip;
}
.word-part:hover:not(:disabled) {
  background-color: var(--mist);
}
.word-part:focus {
  background-color: var(--paper);
  outline: 2px solid var(--sea);
  outline-offset: 2px;
  box-shadow: none;
}
.word-part[aria-invalid="true"] {
  border-bottom: 2px solid var(--rust);
}
.word-part:disabled {
  border-bottom-color: transparent;
  opacity: 1;
}
.word-part.number {
  min-width: 1.6em;
  appearance: textfield;
}
.word-part.number::-webkit-inner-spin-button {
  display: none;
}
.word-part::placeholder {
  color: var(--soft);
  font-style: italic;
}
.word-part::-webkit-calendar-picker-indicator {
  margin-left: 2px;
  padding: 0;
  width: 14px;
}
</style>
