<script setup lang="ts">
/** When the business is open: lines by weekday, and single days that are otherwise. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { DAYS, DAY_NAMES } from "@/sentences/written";
import { dayWords, daysOf, linesOf, type OpeningLine } from "../openingLines";
import OfWorkflows from "./OfWorkflows.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import SomePart from "./SomePart.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Hours = Schemas["OpeningHours"];
const props = defineProps<{ opening: Hours; wait: { id: number; name: string }[]; fault?: string; may: boolean }>();
const emit = defineEmits<{ keep: [opening: Hours] }>();
const lines = computed(() => linesOf(props.opening.days ?? {}));
const others = computed(() => props.opening.exceptions ?? []);
const choices = DAYS.map((day) => ({ value: day, words: (DAY_NAMES[day] ?? day).slice(0, 2), spoken: DAY_NAMES[day] }));
const put = (next: OpeningLine[]) => emit("keep", { ...props.opening, days: daysOf(next) });
const change = (at: number, what: Partial<OpeningLine>) => put(lines.value.map((one, n) => (n === at ? { ...one, ...what } : one)));
function add() {
  const free = DAYS.filter((day) => !lines.value.some((line) => line.days.includes(day)));
  put([
    ...lines.value,
    {
      days: lines.value.length ? [free[0] ?? "mon"] : [...DAYS.slice(0, 5)],
      start: lines.value.length && !free.length ? "18:00" : "09:00",
      end: lines.value.length && !free.length ? "20:00" : "17:00",
    },
  ]);
}
const putOthers = (exceptions: NonNullable<Hours["exceptions"]>) => emit("keep", { ...props.opening, exceptions });
type Other = NonNullable<Hours["exceptions"]>[number];
const changeOther = (at: number, what: Partial<Other>) => putOthers(others.value.map((one, n) => (n === at ? { ...one, ...what } : one)));
function setHours(at: number, what: { start?: string; end?: string }) {
  const [first, ...rest] = others.value[at]?.hours ?? [];
  changeOther(at, { hours: [{ start: "09:00", end: "17:00", ...first, ...what }, ...rest] });
}
function addOther() {
  const last = others.value
    .map((one) => one.day)
    .sort()
    .at(-1);
  const next = new Date(last ?? Date.now());
  next.setUTCDate(next.getUTCDate() + 1);
  putOthers([...others.value, { day: next.toISOString().slice(0, 10), hours: [{ start: "10:00", end: "16:00" }] }]);
}
</script>

<template>
  <SetHead title="Open" first />
  <p v-if="!lines.length" class="soft none">No hours are set: calls and to-dos fall due at any hour.</p>
  <SetLine v-for="(line, at) in lines" :key="at">
    <SomePart
      :value="line.days"
      :label="`Days of line ${at + 1}`"
      :words="dayWords(line.days)"
      :choices="choices"
      :disabled="!may"
      @keep="change(at, { days: $event })" />
    from
    <WordPart :value="line.start" type="time" :label="`Line ${at + 1} opens`" :disabled="!may" @keep="change(at, { start: $event })" /> to
    <WordPart :value="line.end" type="time" :label="`Line ${at + 1} closes`" :disabled="!may" @keep="change(at, { end: $event })" />.
    <BButton
      v-if="may"
      variant="link"
      class="small out"
      :aria-label="`Take out ${dayWords(line.days)}`"
      @click="put(lines.filter((_, n) => n !== at))"
      >take out</BButton
    >
    <template #depends
      ><template v-if="at === 0 && wait.length">Calls and to-dos of <OfWorkflows :of="wait" /> fall due then.</template
      ><template v-else-if="at === 0">No workflow has calls or to-dos yet.</template></template
    >
  </SetLine>
  <SetLine v-for="(one, at) in others" :key="one.day">
    On
    <WordPart
      :value="one.day"
      type="date"
      :label="`Day of exception ${at + 1}`"
      :disabled="!may"
      @keep="changeOther(at, { day: $event })" />
    from
    <WordPart
      :value="one.hours?.[0]?.start ?? ''"
      type="time"
      :label="`Exception ${at + 1} opens`"
      :disabled="!may"
      @keep="setHours(at, { start: $event })" />
    to
    <WordPart
      :value="one.hours?.[0]?.end ?? ''"
      type="time"
      :label="`Exception ${at + 1} closes`"
      :disabled="!may"
      @keep="setHours(at, { end: $event })" />, as an exception.
    <BButton
      v-if="may"
      variant="link"
      class="small out"
      :aria-label="`Take out the exception of ${one.day}`"
      @click="putOthers(others.filter((_, n) => n !== at))"
      >take out</BButton
    >
    <template #depends>Also if it is a holiday.</template>
  </SetLine>
  <p v-if="fault" class="rust small" role="alert">{{ fault }}</p>
  <p v-if="may" class="small more">
    <BButton variant="link" @click="add">one more line</BButton> <BButton variant="link" @click="addOther">a day that is otherwise</BButton>
  </p>
</template>

<style scoped>
.out {
  margin-left: 10px;
  font-family: var(--sans);
}
.more {
  display: flex;
  gap: 18px;
  padding: 6px 0;
}
.none {
  padding: 8px 0 0;
}
</style>
