<script setup lang="ts">
/** How often something was done: fewer than 3 calls. */
import type { Deeds, Part } from "../written";

defineProps<{ part: Part }>();
const emit = defineEmits<{ remove: [] }>();
const deeds = defineModel<Deeds>({ required: true });
const HOW = ["fewer_than", "at_least", "exactly", "more_than"];
const set = (change: Partial<Deeds>) => (deeds.value = { ...deeds.value, ...change });
</script>

<template>
  <BFormSelect class="own" :model-value="deeds.compare" :aria-label="part.label" @update:model-value="set({ compare: String($event) })">
    <option v-for="one in HOW" :key="one" :value="one">{{ one.replace("_", " ") }}</option>
  </BFormSelect>
  <BFormInput
    class="own number"
    type="number"
    min="0"
    max="100000"
    aria-label="how many"
    :model-value="deeds.number"
    @update:model-value="set({ number: Math.max(0, Math.round(Number($event) || 0)) })" />
  <BFormSelect class="own" :model-value="deeds.activity" aria-label="of what" @update:model-value="set({ activity: String($event) })">
    <option v-for="one in part.choices" :key="String(one.value)" :value="one.value">{{ one.words }}</option>
  </BFormSelect>
  <BButton variant="link" @click="emit('remove')">take out</BButton>
</template>

<style scoped>
.own {
  display: inline-block;
  width: auto;
}
.number {
  width: 5.5em;
}
</style>
