<script setup lang="ts">
/** A rule that repeats (RFC 5545, 3.3.10): how often, on which days; what these fields cannot say is written as it is. */
import { computed } from "vue";
import { valueOf } from "@/ui/events";

const model = defineModel<string>({ required: true });
const UNITS: [string, string][] = [
  ["DAILY", "day"],
  ["WEEKLY", "week"],
  ["MONTHLY", "month"],
  ["YEARLY", "year"],
];
const DAYS: [string, string][] = [
  ["MO", "Mo"],
  ["TU", "Tu"],
  ["WE", "We"],
  ["TH", "Th"],
  ["FR", "Fr"],
  ["SA", "Sa"],
  ["SU", "Su"],
];
const WHICH: [string, string][] = [
  ["", "every"],
  ["1", "first"],
  ["2", "second"],
  ["3", "third"],
  ["4", "fourth"],
  ["-1", "last"],
];

const rule = computed(
  () =>
    new Map(
      model.value
        .split(";")
        .filter(Boolean)
        .map((piece) => piece.split("=") as [string, string]),
    ),
);
const chosen = computed(() => (rule.value.get("BYDAY") ?? "").split(",").filter(Boolean));
const which = computed(() => chosen.value[0]?.slice(0, -2) ?? "");
function set(name: string, value: string) {
  const next = new Map(rule.value);
  if (value) next.set(name, value);
  else next.delete(name);
  model.value = [...next].map(([key, one]) => `${key}=${one}`).join(";");
}
function toggle(day: string) {
  const days = chosen.value.map((one) => one.slice(-2));
  const next = days.includes(day)
    ? days.filter((one) => one !== day)
    : DAYS.map(([one]) => one).filter((one) => one === day || days.includes(one));
  set("BYDAY", next.map((one) => which.value + one).join(","));
}
</script>

<template>
  <span class="rule">
    every
    <input
      type="number"
      min="1"
      max="99"
      aria-label="every how many"
      :value="rule.get('INTERVAL') ?? 1"
      @change="set('INTERVAL', Number(valueOf($event)) > 1 ? valueOf($event) : '')" />
    <select aria-label="unit" :value="rule.get('FREQ')" @change="set('FREQ', valueOf($event))">
      <option v-for="[code, words] in UNITS" :key="code" :value="code">{{ words }}</option>
    </select>
    on
    <select
      v-if="rule.get('FREQ') === 'MONTHLY'"
      aria-label="which"
      :value="which"
      @change="set('BYDAY', chosen.map((one) => valueOf($event) + one.slice(-2)).join(','))">
      <option v-for="[code, words] in WHICH" :key="code" :value="code">{{ words }}</option>
    </select>
    <button
      v-for="[code, words] in DAYS"
      :key="code"
      type="button"
      class="day"
      :aria-pressed="chosen.some((one) => one.endsWith(code))"
      @click="toggle(code)">
      {{ words }}
    </button>
    <input :value="model" class="raw" aria-label="the rule as RFC 5545 writes it" @change="model = valueOf($event).trim().toUpperCase()" />
  </span>
</template>

<style scoped>
.rule {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  font: 14.5px var(--sans);
}
input[type="number"] {
  width: 3.6em;
}
.raw {
  width: 17em;
  font-size: 13px;
}
</style>
