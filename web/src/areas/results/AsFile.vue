<script setup lang="ts">
/** A table as a file: the same days, with what each share is of. */
import { useAccount } from "@/queries/session";

defineProps<{ table: string; since: string; until: string }>();
const account = useAccount();
</script>

<template>
  <span class="files small"
    ><a
      v-for="kind in ['csv', 'xlsx']"
      :key="kind"
      :href="`/api/accounts/${account}/results/tables/${table}?kind=${kind}&since=${since}&until=${until}`"
      download
      >{{ kind.toUpperCase() }}</a
    ></span
  >
</template>

<style scoped>
.files {
  display: inline-flex;
  gap: 12px;
}
</style>
