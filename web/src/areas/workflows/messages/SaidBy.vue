<script setup lang="ts">
/** The workflows that say a message, and how many of those inside have it still to come. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";

const props = defineProps<{ by: readonly Schemas["SaidBy"][] }>();
const toCome = computed(() => props.by.reduce((sum, one) => sum + one.to_come, 0));
</script>

<template>
  <table>
    <thead>
      <tr>
        <th>Said by</th>
        <th class="num">To come</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in by" :key="one.id">
        <td>
          <RouterLink :to="{ name: 'workflow', params: { workflow: one.id } }">{{ one.name }}</RouterLink>
          <small v-if="!one.runs" class="soft"> in its draft</small>
        </td>
        <td class="num">{{ one.to_come }}</td>
      </tr>
      <tr class="sum">
        <td>A change reaches</td>
        <td class="num">{{ toCome }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  margin: 14px 0;
}
th {
  font-weight: 400;
  color: var(--soft);
}
td,
th {
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
}
.sum td {
  font-weight: 600;
}
</style>
