<script setup lang="ts">
/** Which days the figures are of: the last so many weeks by one press, or any days. */
import { computed, ref, watch } from "vue";

import { daysWords, usePeriod, WEEKS, weeksOf } from "./period";

const props = defineProps<{ since: string; until: string; now: string }>();
const { choose, set } = usePeriod();
const open = ref(false);
const from = ref(props.since);
const to = ref(props.until);
watch(
  () => [props.since, props.until] as const,
  ([since, until]) => ([from.value, to.value] = [since, until]),
);
const weeks = computed(() => (props.until === props.now ? weeksOf(props.since, props.until) : 0));
const wrong = computed(() => !from.value || !to.value || from.value > to.value);
async function take() {
  if (wrong.value) return;
  await set(from.value, to.value);
  open.value = false;
}
</script>

<template>
  <span class="period">
    <span class="soft">{{ daysWords(since, until) }}</span>
    <span role="group" aria-label="The last so many weeks"
      ><BButton v-for="one in WEEKS" :key="one" variant="link" class="day" :aria-pressed="weeks === one" @click="choose(one, now)"
        >{{ one }}<span class="visually-hidden"> weeks</span></BButton
      ></span
    ><span class="soft small">weeks</span>
    <BButton variant="link" class="small" :aria-expanded="open" @click="open = !open">other days</BButton>
    <form v-if="open" class="row" @submit.prevent="take">
      <label>From <BFormInput v-model="from" type="date" /></label><label>to <BFormInput v-model="to" type="date" /></label>
      <BButton type="submit" variant="outline-primary" :disabled="wrong">Show</BButton>
    </form>
  </span>
</template>

<style scoped>
.period {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: baseline;
}
/* A target one hits with a finger (WCAG 2.5.8). */
.day {
  min-width: 27px;
}
label {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
}
</style>
