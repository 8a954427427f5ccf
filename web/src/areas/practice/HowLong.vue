<script setup lang="ts">
/** How long things are kept, for all accounts of the practice: months by the sort of thing. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { ref, watch } from "vue";

import { api, ok } from "@/api/client";
import StateMark from "@/ui/StateMark.vue";

const cache = useQueryClient();
const { data, error } = useQuery({ queryKey: ["keeping"], queryFn: () => ok(api.GET("/api/practice/keeping")) });
const months = ref<Record<string, number>>({});
const days = ref(14);
watch(
  data,
  (now) => {
    if (!now) return;
    months.value = Object.fromEntries(now.sorts.map((one) => [one.name, one.months]));
    days.value = now.session_days;
  },
  { immediate: true },
);
const keep = useMutation({
  mutationFn: () => ok(api.PUT("/api/practice/keeping", { body: { months: months.value, session_days: days.value } })),
  onSuccess: (now) => cache.setQueryData(["keeping"], now),
});
</script>

<template>
  <details class="long">
    <summary>How long things are kept</summary>
    <p class="soft">
      For all accounts. What is older is taken away for good, month by month. What somebody agreed to, how they came in, and notes are kept
      as long as they are.
    </p>
    <p v-if="error" class="fault" role="alert">{{ error.message }}</p>
    <form v-if="data" @submit.prevent="keep.mutate()">
      <label v-for="one in data.sorts" :key="one.name"
        ><span>{{ one.words }}</span
        ><BFormInput v-model.number="months[one.name]" type="number" :min="one.least" max="1200" required /> months</label
      >
      <label
        ><span>signed in, who does nothing</span><BFormInput v-model.number="days" type="number" min="1" max="365" required /> days</label
      >
      <p class="row">
        <BButton variant="primary" type="submit" :disabled="keep.isPending.value">Keep it so</BButton>
        <span v-if="keep.isSuccess.value" class="kelp" role="status"><StateMark is="done" /> Kept. A worker takes away what is older.</span>
      </p>
      <p v-if="keep.error.value" class="fault" role="alert">{{ keep.error.value.message }}</p>
    </form>
  </details>
</template>

<style scoped>
.long {
  margin-top: 32px;
  max-width: 640px;
}
summary {
  font-weight: 600;
}
label {
  display: flex;
  align-items: baseline;
  gap: 10px;
  border-top: 1px solid var(--rule);
  padding: 6px 0;
  margin: 0;
}
label span {
  flex: 1;
}
label span::first-letter {
  text-transform: uppercase;
}
input {
  width: 6em;
  text-align: right;
}
</style>
