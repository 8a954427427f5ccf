<script setup lang="ts">
/** How often something was done: fewer than 3 calls. */
import { valueOf } from "@/ui/events";

import type { Deeds, Part } from "../written";

defineProps<{ part: Part }>();
const deeds = defineModel<Deeds>({ required: true });
const HOW = ["fewer_than", "at_least", "exactly", "more_than"];
const set = (change: Partial<Deeds>) => (deeds.value = { ...deeds.value, ...change });
</script>

<template>
  <select :value="deeds.compare" :aria-label="part.label" @change="set({ compare: valueOf($event) })">
    <option v-for="one in HOW" :key="one" :value="one">{{ one.replace("_", " ") }}</option>
  </select>
  <input
    type="number"
    min="0"
    max="100000"
    aria-label="how many"
    :value="deeds.number"
    @input="set({ number: Math.max(0, Math.round(Number(valueOf($event)) || 0)) })" />
  <select :value="deeds.activity" aria-label="of what" @change="set({ activity: valueOf($event) })">
    <option v-for="one in part.choices" :key="String(one.value)" :value="one.value">{{ one.words }}</option>
  </select>
</template>
