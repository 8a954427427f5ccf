<script setup lang="ts">
/** When somebody can be booked: whenever the business is open, or by hours of their own, a line a stretch. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import { DAYS, DAY_NAMES } from "@/sentences/written";
import { dayWords, daysOf, linesOf, type OpeningLine } from "../openingLines";
import SomePart from "./SomePart.vue";

type Hours = Schemas["OpeningHours"];
const props = defineProps<{ member: Schemas["GiverOut"]; may: boolean }>();
const emit = defineEmits<{ keep: [hours: Hours | null] }>();
const lines = computed(() => linesOf(props.member.hours?.days ?? {}));
const choices = DAYS.map((day) => ({ value: day, words: (DAY_NAMES[day] ?? day).slice(0, 2), spoken: DAY_NAMES[day] }));
const put = (next: OpeningLine[]) =>
  emit("keep", next.length ? { exceptions: props.member.hours?.exceptions ?? [], days: daysOf(next) } : null);
const change = (at: number, what: Partial<OpeningLine>) => put(lines.value.map((one, n) => (n === at ? { ...one, ...what } : one)));
const HOW = [
  { value: "open", words: "whenever the business is open" },
  { value: "own", words: "by hours of their own" },
];
const how = (value: string) => put(value === "own" ? [{ days: [...DAYS.slice(0, 5)], start: "09:00", end: "17:00" }] : []);
</script>

<template>
  <SetLine>
    {{ member.name }} can be booked
    <WordPart
      :value="lines.length ? 'own' : 'open'"
      :label="`When ${member.name} can be booked`"
      :choices="HOW"
      :disabled="!may"
      @keep="how" />{{ lines.length ? ":" : "." }}
    <template v-for="(line, at) in lines" :key="at">
      {{ at ? "; " : " "
      }}<SomePart
        :value="line.days"
        :label="`${member.name}: days of line ${at + 1}`"
        :words="dayWords(line.days)"
        :choices="choices"
        :disabled="!may"
        @keep="change(at, { days: $event as OpeningLine['days'] })" />
      from
      <WordPart
        :value="line.start"
        type="time"
        :label="`${member.name}: line ${at + 1} begins`"
        :disabled="!may"
        @keep="change(at, { start: $event })" />
      to
      <WordPart
        :value="line.end"
        type="time"
        :label="`${member.name}: line ${at + 1} ends`"
        :disabled="!may"
        @keep="change(at, { end: $event })" />
      <BButton
        v-if="may && lines.length > 1"
        variant="link"
        class="small"
        :aria-label="`${member.name}: take out line ${at + 1}`"
        @click="put(lines.filter((_, n) => n !== at))"
        >take out</BButton
      >
    </template>
    <BButton
      v-if="may && lines.length"
      variant="link"
      class="small"
      @click="put([...lines, { days: ['sat'], start: '10:00', end: '13:00' }])"
      >one more line</BButton
    >
    <template #depends>Not while they are away.</template>
  </SetLine>
</template>
