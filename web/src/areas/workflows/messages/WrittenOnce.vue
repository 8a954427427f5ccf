<script setup lang="ts">
/** What was written once to some people: to how many, how far it is, how many answered. */
import { useRead } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";

const { data: rows } = useRead("/messages/once", undefined, { live: true });
const COLUMNS: Column[] = [
  { key: "name", label: "Written once", heads: true },
  { key: "made", label: "When", class: "soft" },
  { key: "by", label: "By" },
  { key: "to", label: "To", num: true },
  { key: "came", label: "Begun", num: true },
  { key: "sent", label: "Sent", num: true },
  { key: "answered", label: "Answered", num: true },
];
const STATES: Record<string, string> = { paused: "paused", stopped: "stopped", taken_back: "taken back" };
</script>

<template>
  <section v-if="rows?.length" class="once">
    <h2>Written once</h2>
    <DataTable caption="Written once" :rows="rows" :columns="COLUMNS">
      <template #name="{ item: row }"
        ><RouterLink :to="{ name: 'workflow', params: { workflow: row.id }, query: { look: 'watch' } }">{{ row.name }}</RouterLink>
        <small v-if="row.state && STATES[row.state]" class="gorse"> {{ STATES[row.state] }}</small></template
      >
    </DataTable>
  </section>
</template>

<style scoped>
.once {
  margin-top: 28px;
}
</style>
