<script setup lang="ts">
/** Public holidays with a tick each, by name, and days off of the business's own. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { dayOf } from "@/ui/words";
import OfWorkflows from "./OfWorkflows.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";

type Calendar = Schemas["HolidayCalendar"];
type Off = NonNullable<Calendar["own"]>[number];
const props = defineProps<{
  calendar: Calendar;
  calendars: Schemas["CalendarOut"][];
  holidays: Schemas["HolidayOut"][];
  skip: { id: number; name: string }[];
  today: string;
  fault?: string;
  may: boolean;
}>();
const emit = defineEmits<{ keep: [calendar: Calendar] }>();
const own = computed(() => props.calendar.own ?? []);
const worked = computed(() => props.calendar.worked ?? []);
const countries = computed(() => [
  { value: "", words: "no country" },
  ...props.calendars.map((one) => ({ value: one.code, words: one.name })),
]);
const parts = computed(() => {
  const found = props.calendars.find((one) => one.code === props.calendar.country)?.parts ?? [];
  return found.length ? [{ value: "", words: "all of it" }, ...found.map((one) => ({ value: one.code, words: one.name }))] : [];
});
const put = (what: Partial<Calendar>) => emit("keep", { ...props.calendar, ...what });
const tick = (name: string, kept: boolean) => put({ worked: kept ? worked.value.filter((one) => one !== name) : [...worked.value, name] });
const change = (at: number, what: Partial<Off>) =>
  put({ own: own.value.map((one, n) => (n === at ? fitting({ ...one, ...what }, what) : one)) });
/** Days off end on the day they begin or later: the day that was not set follows the one that was. */
function fitting(off: Off, set: Partial<Off>): Off {
  if (off.first <= off.last) return off;
  return set.first ? { ...off, last: off.first } : { ...off, first: off.last };
}
</script>

<template>
  <SetHead title="Closed" />
  <SetLine>
    On the public holidays of
    <WordPart
      :value="calendar.country ?? ''"
      label="Holidays of the country"
      :choices="countries"
      :disabled="!may"
      @keep="put({ country: $event, region: '' })" /><template v-if="parts.length"
      >,
      <WordPart
        :value="calendar.region ?? ''"
        label="Part of the country"
        :choices="parts"
        :disabled="!may"
        @keep="put({ region: $event })" /></template
    ><template v-if="holidays.length">, that are ticked</template>.
    <ul v-if="holidays.length" class="ticks">
      <li v-for="one in holidays" :key="one.name">
        <BFormCheckbox :model-value="one.kept" :disabled="!may" @update:model-value="tick(one.name, !!$event)">{{
          one.name
        }}</BFormCheckbox>
        <span class="soft">{{ dayOf(one.day, today) }}</span>
      </li>
    </ul>
    <template #depends
      ><template v-if="skip.length"><OfWorkflows :of="skip" /> {{ skip.length === 1 ? "skips" : "skip" }} days off.</template
      ><template v-else>No workflow skips days off; calls and to-dos do.</template></template
    >
  </SetLine>
  <SetLine v-for="(one, at) in own" :key="`${one.first} ${at}`">
    From
    <WordPart :value="one.first" type="date" :label="`Days off ${at + 1} begin`" :disabled="!may" @keep="change(at, { first: $event })" />
    to <WordPart :value="one.last" type="date" :label="`Days off ${at + 1} end`" :disabled="!may" @keep="change(at, { last: $event })" />:
    <WordPart
      :value="one.name ?? ''"
      :label="`Why days off ${at + 1}`"
      empty="why"
      :most="80"
      :disabled="!may"
      @keep="change(at, { name: $event })" />.
    <BButton
      v-if="may"
      variant="link"
      class="small out"
      :aria-label="`Take out ${one.name || one.first}`"
      @click="put({ own: own.filter((_, n) => n !== at) })"
      >take out</BButton
    >
  </SetLine>
  <p v-if="fault" class="rust small" role="alert">{{ fault }}</p>
  <p v-if="may" class="small more">
    <BButton variant="link" @click="put({ own: [...own, { first: today, last: today } as Off] })">days off of one’s own</BButton>
  </p>
</template>

<style scoped>
.ticks {
  list-style: none;
  padding: 4px 0 6px;
  margin: 0;
  columns: 2;
  column-gap: 36px;
  font: 15px var(--sans);
}
.ticks li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  break-inside: avoid;
  padding: 1px 0;
}
.out {
  margin-left: 10px;
  font-family: var(--sans);
}
.more {
  padding: 6px 0 0;
}
@media (max-width: 640px) {
  .ticks {
    columns: 1;
  }
}
</style>
