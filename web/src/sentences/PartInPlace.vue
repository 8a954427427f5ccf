<script setup lang="ts">
/** One editable part of a sentence: words until it is chosen, then an editor of its sort in the same place.
 * Enter keeps, Escape leaves it as it was. Messages and long texts are edited in the notes column. */
import { computed, nextTick, ref } from "vue";

import ConditionEdit from "./ConditionEdit.vue";
import HappeningEdit from "./HappeningEdit.vue";
import AssignEdit from "./editors/AssignEdit.vue";
import NamePick from "./editors/NamePick.vue";
import DeedsEdit from "./editors/DeedsEdit.vue";
import RuleEdit from "./editors/RuleEdit.vue";
import ToggleEdit from "./editors/ToggleEdit.vue";
import { useAround } from "./around";
import { COMMA, cutLength, IN_NOTES, NAMES, read, UNITS } from "./typedParts";
import { DAYS, DAY_NAMES, plain, said, same, type Assign, type By, type Condition, type Deeds, type Happening, type Part } from "./written";
import { elementOf } from "@/ui/events";

const props = defineProps<{ part: Part; value: unknown; names?: string; stands?: Record<string, string>; within?: string }>();
const emit = defineEmits<{ change: [value: unknown] }>();
const around = useAround();
const open = around.open;
const editing = ref(false);
const typed = ref("");
const amount = ref(1);
const unit = ref("day");
const own = ref<unknown>();
const box = ref<HTMLElement>();
const button = ref<HTMLElement>();
const words = computed(() => said(props.part, props.value, around.book.value, props.stands));
/** The words cut at their merge fields, which are shown by name. */
const pieces = computed(() =>
  words.value.split(/(\{\{[^}]*\}\})/).map((piece) => {
    const field = piece.match(/^\{\{\s*([\w.]+)/)?.[1];
    return { merge: !!field, words: field ? (around.fields.value.get(field) ?? field) : piece };
  }),
);
const isName = computed(() => !!props.names || props.part.sort in NAMES);
const nameKind = computed(() => (messageName.value ? "message" : props.names || (NAMES[props.part.sort] ?? "")));
const several = computed(() => COMMA.includes(props.part.sort));
const messageName = computed(() => props.part.field === "message" && props.part.sort === "line");
const fieldNames = computed(() => [
  ...Object.entries(around.ownFields.value).map(([name, about]) => ({ name, about })),
  ...(around.names.value.field ?? []),
]);

async function edit() {
  if (!open.value) return;
  if (props.within) around.select(props.within);
  if (IN_NOTES.includes(props.part.sort)) return around.toNotes(props.part.field);
  const now = props.value;
  if (props.part.sort === "yes-no") return emit("change", !now);
  typed.value = Array.isArray(now) ? now.join(", ") : now === null || now === undefined ? "" : String(now);
  own.value = now === undefined ? undefined : plain(now);
  if (props.part.sort === "condition") own.value ??= { test: "tag", tag: "", has: true };
  if (props.part.sort === "duration") setLength(String(now ?? "1 day"));
  if (props.part.sort === "length") {
    own.value ??= { than: "7 days", longer: true };
    setLength((own.value as { than: string }).than);
  }
  if (props.part.sort === "deeds") own.value ??= { compare: "fewer_than", number: 1, activity: "call" };
  if (props.part.sort === "worth") own.value ??= { compare: "at_least", amount: 0 };
  editing.value = true;
  await nextTick();
  const first = box.value?.querySelector<HTMLElement>("input:not([type='checkbox']), select, [contenteditable='true'], button");
  first?.focus();
  if (first instanceof HTMLInputElement) first.select();
}
function setLength(words: string) {
  [amount.value, unit.value] = cutLength(words);
}
const parsed = () => read(props.part, { typed: typed.value, own: own.value, amount: amount.value, unit: unit.value });
async function keep(back = true) {
  if (!editing.value) return;
  const next = parsed();
  editing.value = false;
  if (next !== undefined && !same(next, props.value)) emit("change", plain(next));
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
function remove() {
  editing.value = false;
  emit("change", null);
}
/** What has the focus may be gone because something else stands there now, which takes it in a moment; then, and while the
 * focus is in the editor or in a dialog that it opened, it stays open. */
async function onBlur(event: FocusEvent) {
  if (box.value?.contains(event.relatedTarget as Node | null)) return;
  await new Promise((then) => setTimeout(then));
  const now = document.activeElement;
  if (!editing.value || box.value?.contains(now) || now?.closest("[role='dialog']")) return;
  if (now === document.body && !elementOf(event)?.isConnected)
    return box.value?.querySelector<HTMLElement>("select, input, button")?.focus();
  void keep(false);
}
function onEnter(event: KeyboardEvent) {
  if (elementOf(event)?.tagName === "BUTTON") return;
  event.preventDefault();
  void keep();
}
const by = computed(() => own.value as By);
const days = DAYS.map((day) => ({ value: day, words: (DAY_NAMES[day] as string).slice(0, 2), spoken: DAY_NAMES[day] }));
const choices = computed(() => (props.part.choices ?? []).map((one) => ({ value: String(one.value), words: one.words })));
const tasks = computed(() => around.tasks.value);
defineExpose({ edit });
</script>

<template>
  <span
    v-if="editing"
    ref="box"
    class="edit"
    :class="part.sort"
    @focusout="onBlur"
    @keydown.enter.stop="onEnter"
    @keydown.stop.esc.prevent="leave"
    @keydown.stop
    @click.stop>
    <template v-if="part.sort === 'duration' || part.sort === 'length'">
      <select v-if="part.sort === 'length'" v-model="(own as { longer: boolean }).longer" :aria-label="`${part.label}: longer or not`">
        <option :value="true">more than</option>
        <option :value="false">at most</option>
      </select>
      <input v-if="unit" v-model.number="amount" type="number" min="0" max="9999" :aria-label="part.label" />
      <select v-model="unit" aria-label="unit">
        <option v-for="one in UNITS" :key="one" :value="one">{{ one }}{{ amount === 1 ? "" : "s" }}</option>
        <option v-if="part.optional && part.sort === 'duration'" value="">{{ part.empty }}</option>
      </select>
      <button v-if="part.sort === 'length'" type="button" class="link" @click="remove">take out</button>
    </template>
    <input
      v-else-if="part.sort === 'time'"
      v-model="typed"
      class="short"
      inputmode="numeric"
      :placeholder="part.optional ? part.empty : '9:30'"
      :aria-label="part.label" />
    <input v-else-if="part.sort === 'date'" v-model="typed" class="short" placeholder="5 March" :aria-label="part.label" />
    <input
      v-else-if="part.sort === 'count' || part.sort === 'money'"
      v-model="typed"
      type="number"
      :min="part.least ?? undefined"
      :max="part.most ?? undefined"
      step="any"
      :aria-label="part.label" />
    <select v-else-if="part.sort === 'choice' || part.sort === 'channel'" v-model="typed" :aria-label="part.label">
      <option v-if="part.optional" value="">{{ stands?.[part.field] ?? part.empty }}</option>
      <option v-for="one in part.choices" :key="String(one.value)" :value="one.value">{{ one.words }}</option>
    </select>
    <select v-else-if="part.sort === 'event'" v-model="typed" :aria-label="part.label">
      <option v-for="one in around.events.value" :key="one" :value="one">{{ one.replace(".", " ").replaceAll("_", " ") }}</option>
    </select>
    <select v-else-if="part.sort === 'step'" v-model="typed" :aria-label="part.label">
      <option value="">{{ part.empty }}</option>
      <option v-for="one in tasks" :key="one.id" :value="one.id">{{ one.words }}</option>
    </select>
    <ToggleEdit v-else-if="part.sort === 'weekdays'" v-model="own as string[]" :choices="days" needed />
    <ToggleEdit
      v-else-if="part.sort === 'choices' || part.sort === 'channels'"
      v-model="own as string[]"
      :choices="choices"
      :ordered="part.sort === 'channels'" />
    <AssignEdit v-else-if="part.sort === 'assign'" v-model="own as Assign" :label="part.label" @enter="keep()" />
    <template v-else-if="part.sort === 'by'">
      <select v-model="by.who" :aria-label="part.label">
        <option value="anyone">anyone</option>
        <option value="anyone_but">anyone but</option>
        <option value="only">only</option>
      </select>
      <NamePick v-if="by.who !== 'anyone'" v-model="by.member" kind="member" label="which" @enter="keep()" />
    </template>
    <template v-else-if="part.sort === 'worth'">
      <select v-model="(own as { compare: string }).compare" :aria-label="part.label">
        <option v-for="one in ['at_least', 'more_than', 'fewer_than', 'exactly']" :key="one" :value="one">
          {{ one.replace("_", " ") }}
        </option>
      </select>
      <input v-model.number="(own as { amount: number }).amount" type="number" min="0" aria-label="how much" /><button
        type="button"
        class="link"
        @click="remove">
        take out
      </button>
    </template>
    <DeedsEdit v-else-if="part.sort === 'deeds'" v-model="own as Deeds" :part="part" @remove="remove" />
    <RuleEdit v-else-if="part.sort === 'rule'" v-model="own as string" />
    <template v-else-if="part.sort === 'condition'">
      <ConditionEdit :condition="own as Condition" @change="own = $event ?? null" />
      <button type="button" class="plain small" @click="keep()">Keep</button>
      <button v-if="part.optional" type="button" class="link small" @click="remove">{{ part.empty }}</button>
    </template>
    <template v-else-if="part.sort === 'happening'">
      <HappeningEdit :happening="(own as Happening) ?? null" @change="own = $event" />
      <button type="button" class="plain small" @click="keep()">Keep</button>
    </template>
    <NamePick
      v-else-if="isName || messageName"
      v-model="typed"
      :kind="nameKind"
      :label="part.label"
      :several="several"
      :among="part.sort === 'field' ? fieldNames : undefined"
      @enter="keep()" />
    <input
      v-else
      v-model="typed"
      class="line"
      maxlength="2000"
      :aria-label="part.label"
      :placeholder="part.sort === 'address' ? 'https://' : several ? 'by comma' : ''" />
  </span>
  <span
    v-else
    ref="button"
    class="part"
    :class="{ blank: words === '…', open }"
    :role="open ? 'button' : undefined"
    :tabindex="open ? 0 : undefined"
    :data-part="part.field"
    :aria-label="open ? `${part.label}: ${pieces.map((piece) => piece.words).join('')}` : undefined"
    @click.stop="edit"
    @keydown.enter.prevent.stop="edit"
    @keydown.space.prevent.stop="edit"
    ><template v-for="(piece, n) in pieces" :key="n"
      ><span v-if="piece.merge" class="merge">{{ piece.words }}</span
      ><template v-else>{{ piece.words }}</template></template
    ></span
  >
</template>

<style scoped>
.merge {
  background: #e3ebe8;
  padding: 0 3px;
}
.part.open {
  text-decoration: underline;
  text-decoration-color: var(--sea);
  text-decoration-thickness: 1px;
  text-underline-offset: 3px;
  cursor: pointer;
}
.part.open:hover {
  background: #dfe9e6;
}
.part.blank {
  color: var(--rust);
  padding: 0 6px;
}
.edit {
  font: 15px var(--sans);
  color: var(--ink);
}
.edit.condition,
.edit.happening {
  display: block;
  border-left: 2px solid var(--sea);
  padding: 6px 0 6px 12px;
  margin: 6px 0;
  background: var(--paper);
}
.edit :deep(input),
.edit :deep(select) {
  font-size: 15px;
  padding: 1px 5px;
  margin: 0 2px;
}
.edit input[type="number"] {
  width: 5em;
}
.edit .short {
  width: 6.5em;
}
.edit .line {
  width: min(26rem, 100%);
}
.small {
  padding: 2px 9px;
  font-size: 14px;
  margin-top: 8px;
}
</style>
