<script setup lang="ts">
/** Today's appointments in the order of the day, and those of the week before of which nobody has said whether they came. */
import { computed, defineAsyncComponent, ref } from "vue";

import type { Schemas } from "@/api/client";
import { many } from "@/ui/words";
import AppointmentLine from "./AppointmentLine.vue";

const BookAsk = defineAsyncComponent(() => import("@/shared/booking/BookAsk.vue"));
type Row = Schemas["AppointmentRow"];
const props = defineProps<{ rows: Row[]; may: boolean; mayBook: boolean; localNow: string }>();
const today = computed(() => props.localNow.slice(0, 10));
const unsaid = computed(() => props.rows.filter((one) => one.local_start.slice(0, 10) < today.value));
const ofToday = computed(() => props.rows.filter((one) => one.local_start.slice(0, 10) >= today.value));
const booking = ref(false);
const moving = ref<Row>();
</script>

<template>
  <h2>
    {{ ofToday.length ? many(ofToday.length, "appointment") : "No appointment" }} today
    <BButton v-if="mayBook" variant="link" class="small" @click="booking = true">Book one…</BButton>
  </h2>
  <AppointmentLine v-for="one in ofToday" :key="one.id" :one="one" :today="today" :may="may" :may-move="mayBook" @move="moving = one" />
  <details v-if="unsaid.length" class="unsaid" :open="unsaid.length < 3">
    <summary class="gorse">{{ many(unsaid.length, "appointment") }} of this week: did they come?</summary>
    <AppointmentLine v-for="one in unsaid" :key="one.id" :one="one" :today="today" :may="may" :may-move="false" />
  </details>
  <BookAsk v-if="booking" @close="booking = false" @done="booking = false" />
  <BookAsk v-if="moving" :moving="moving" @close="moving = undefined" @done="moving = undefined" />
</template>

<style scoped>
h2 .small {
  font: 15px var(--sans);
  float: right;
}
.unsaid {
  margin-top: 8px;
}
</style>
