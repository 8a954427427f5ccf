<script setup lang="ts">
/** A few at a time: how many come each minute, hour or day, and in which hours of which days. */
import type { Schemas } from "@/api/client";
import { valueOf } from "@/ui/events";

defineProps<{ units: string }>();
const trickle = defineModel<Schemas["Trickle"]>({ required: true });
const DAYS = [
  ["mon", "Mon"],
  ["tue", "Tue"],
  ["wed", "Wed"],
  ["thu", "Thu"],
  ["fri", "Fri"],
  ["sat", "Sat"],
  ["sun", "Sun"],
] as const;
function set(change: Partial<Schemas["Trickle"]>) {
  trickle.value = { ...trickle.value, ...change };
}
function toggle(day: (typeof DAYS)[number][0]) {
  const has = trickle.value.weekdays?.includes(day);
  const weekdays = DAYS.map(([name]) => name).filter((name) => (name === day ? !has : trickle.value.weekdays?.includes(name)));
  if (weekdays.length) set({ weekdays });
}
</script>

<template>
  <div class="slowly">
    <div class="row">
      <BFormInput
        :model-value="trickle.count"
        type="number"
        min="1"
        max="100000"
        aria-label="How many"
        @update:model-value="set({ count: Number($event) })" />
      {{ units }} each
      <BFormSelect :model-value="trickle.each" aria-label="Each" @update:model-value="set({ each: $event as 'day' })"
        ><option>minute</option>
        <option>hour</option>
        <option>day</option></BFormSelect
      >
      from <input :value="trickle.start" type="time" aria-label="From" @change="set({ start: valueOf($event) })" /> to
      <input :value="trickle.end" type="time" aria-label="To" @change="set({ end: valueOf($event) })" />
    </div>
    <div class="row">
      <BButton
        v-for="[day, words] in DAYS"
        :key="day"
        variant="link"
        class="day"
        :aria-pressed="trickle.weekdays?.includes(day)"
        @click="toggle(day)"
        >{{ words }}</BButton><BFormCheckbox
        :model-value="trickle.skip_holidays"
        class="small"
        @update:model-value="set({ skip_holidays: !!$event })"
        >not on holidays</BFormCheckbox
      >
    </div>
  </div>
</template>

<style scoped>
.slowly {
  border-left: 2px solid var(--rule);
  padding-left: 12px;
  margin-top: 6px;
}
.row {
  gap: 8px;
  margin: 5px 0;
  align-items: center;
}
input[type="number"] {
  width: 5.5em;
}
</style>
