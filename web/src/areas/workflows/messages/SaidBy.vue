<script setup lang="ts">
/** The workflows that say a message, and how many of those inside have it still to come. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";

const props = defineProps<{ by: readonly Schemas["SaidBy"][] }>();
const toCome = computed(() => props.by.reduce((sum, one) => sum + one.to_come, 0));
</script>

<template>
  <BTableSimple>
    <BThead>
      <BTr>
        <BTh>Said by</BTh>
        <BTh class="num">To come</BTh>
      </BTr>
    </BThead>
    <BTbody>
      <BTr v-for="one in by" :key="one.id">
        <BTd>
          <RouterLink :to="{ name: 'workflow', params: { workflow: one.id } }">{{ one.name }}</RouterLink>
          <small v-if="!one.runs" class="soft"> in its draft</small>
        </BTd>
        <BTd class="num">{{ one.to_come }}</BTd>
      </BTr>
      <BTr class="sum">
        <BTd>A change reaches</BTd>
        <BTd class="num">{{ toCome }}</BTd>
      </BTr>
    </BTbody>
  </BTableSimple>
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
