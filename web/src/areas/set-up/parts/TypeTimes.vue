<script setup lang="ts">
/** When a type of appointment is given: while it is open or at times of its own, once or as a course; how far ahead it is booked, until
 * when it may be moved, and whether one may wait for a place. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import { DAYS, DAY_NAMES } from "@/sentences/written";
import { dayWords } from "../openingLines";
import SomePart from "./SomePart.vue";

type Offer = Schemas["Offer"];
const props = defineProps<{ type: Schemas["TypeOut"]; faults: Record<string, string>; may: boolean }>();
const emit = defineEmits<{ set: [offer: Partial<Offer>] }>();
const set = (offer: Partial<Offer>) => emit("set", offer);
const label = (what: string) => `${props.type.name}: ${what}`;
const offer = computed(() => props.type.offer);
const course = computed(() => (offer.value.dates ?? 1) > 1);
const own = computed(() => (offer.value.begins ?? []).join(", "));
const on = computed(() => (offer.value.on ?? []).join(", "));
const weekdays = computed(() => [...(offer.value.weekdays ?? DAYS)]);
const choices = DAYS.map((day) => ({ value: day, words: (DAY_NAMES[day] ?? day).slice(0, 2), spoken: DAY_NAMES[day] }));
/** "18:00, 19:30" as parts. */
const parts = (text: string) => text.split(/[\s,;]+/).filter(Boolean);
</script>

<template>
  <SetLine :fault="faults.every || faults.begins || faults.weekdays || faults.on">
    It begins
    <WordPart
      :value="own"
      :label="label('times of day at which it begins')"
      empty="while you are open"
      :most="120"
      :disabled="!may"
      @keep="set({ begins: parts($event) })" /><template v-if="!own"
      >, every
      <WordPart
        :value="offer.every ?? 30"
        type="number"
        :label="label('minutes from one beginning to the next')"
        :least="5"
        :most="1440"
        :disabled="!may"
        @keep="set({ every: Number($event) })" />
      minutes</template
    >, on
    <SomePart
      :value="weekdays"
      :label="label('on which weekdays')"
      :words="weekdays.length === 7 ? 'any day' : dayWords(weekdays)"
      :choices="choices"
      :disabled="!may"
      @keep="set({ weekdays: $event as Offer['weekdays'] })" />,
    <WordPart
      :value="on"
      :label="label('only on these dates')"
      empty="whatever the date"
      :most="1200"
      :disabled="!may"
      @keep="set({ on: parts($event) })" />.
    <template #depends
      >Times of its own, like 18:00, 19:30, hold whether you are open or not; dates are written like 2026-03-28. Closed days and holidays
      are left out.</template
    >
  </SetLine>
  <SetLine :fault="faults.dates || faults.apart">
    It is
    <WordPart
      :value="course ? 'course' : 'one'"
      :label="label('one date or a course')"
      :choices="[
        { value: 'one', words: 'one date' },
        { value: 'course', words: 'a course' },
      ]"
      :disabled="!may"
      @keep="set({ dates: $event === 'course' ? 6 : 1 })" /><template v-if="course">
      of
      <WordPart
        :value="offer.dates ?? 1"
        type="number"
        :label="label('dates of the course')"
        :least="2"
        :most="30"
        :disabled="!may"
        @keep="set({ dates: Number($event) })" />
      dates,
      <WordPart
        :value="offer.apart ?? 7"
        type="number"
        :label="label('days from one date to the next')"
        :least="1"
        :most="60"
        :disabled="!may"
        @keep="set({ apart: Number($event) })" />
      days apart, booked as one</template
    >.
  </SetLine>
  <SetLine :fault="faults.soonest_hours || faults.ahead_days || faults.change_hours || faults.waiting_hours">
    It is booked at least
    <WordPart
      :value="offer.soonest_hours ?? 2"
      type="number"
      :label="label('hours ahead at least')"
      :most="2160"
      :disabled="!may"
      @keep="set({ soonest_hours: Number($event) })" />
    hours and at most
    <WordPart
      :value="offer.ahead_days ?? 60"
      type="number"
      :label="label('days ahead at most')"
      :least="1"
      :most="366"
      :disabled="!may"
      @keep="set({ ahead_days: Number($event) })" />
    days ahead, and can be moved or cancelled by oneself until
    <WordPart
      :value="offer.change_hours ?? 24"
      type="number"
      :label="label('hours before it until which one may change it')"
      :most="2160"
      :disabled="!may"
      @keep="set({ change_hours: Number($event) })" />
    hours before. When it is full,
    <WordPart
      :value="offer.waiting_hours ? 'wait' : 'none'"
      :label="label('a waiting list')"
      :choices="[
        { value: 'none', words: 'there is no waiting list' },
        { value: 'wait', words: 'one may wait for a place' },
      ]"
      :disabled="!may"
      @keep="set({ waiting_hours: $event === 'wait' ? 12 : 0 })" /><template v-if="offer.waiting_hours"
      >, and has
      <WordPart
        :value="offer.waiting_hours"
        type="number"
        :label="label('hours to take a place that came free')"
        :least="1"
        :most="336"
        :disabled="!may"
        @keep="set({ waiting_hours: Number($event) })" />
      hours to take one that came free; then the next is asked</template
    >.
  </SetLine>
</template>
