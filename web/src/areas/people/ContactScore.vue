<script setup lang="ts">
/** A contact's scores: what each is made of, and what it was on a day. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import ReadState from "@/ui/ReadState.vue";
import ScoreThen from "./ScoreThen.vue";

const props = defineProps<{ contact: Schemas["ContactRow"]; today: string }>();
const { data: scores, ...read } = useRead("/contacts/{contact_id}/score", () => ({ path: { contact_id: props.contact.id } }), {
  live: true,
});
const day = ref("");
const all = computed(() => scores.value ?? []);
</script>

<template>
  <ReadState :of="read" what="The lead score">
    <template v-if="all.length">
      <h2>{{ all.length === 1 && !all[0]?.name ? "Lead score" : "Scores" }}</h2>
      <ScoreThen
        v-for="one in all"
        :key="one.name"
        v-model:day="day"
        :one="one"
        :named="all.length > 1"
        :contact="contact.id"
        :today="today" />
    </template>
  </ReadState>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
</style>
