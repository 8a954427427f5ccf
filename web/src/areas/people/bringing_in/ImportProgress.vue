<script setup lang="ts">
/** How far the bringing in of a file is, what came of its rows so far, and those to correct. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import { many, number } from "@/ui/words";
import { STATES } from "./states";

const props = defineProps<{ work: Schemas["ImportOut"] }>();
const emit = defineEmits<{ handle: [did: "stop" | "go-on"] }>();
const account = useAccount();
const { data: faults } = useRead("/imports/{import_id}/faults", () => ({ path: { import_id: props.work.id } }), {
  enabled: () => !!(props.work.failed || props.work.partly),
});
const toCorrect = computed(() => props.work.failed + props.work.partly);
const link = computed(() => `/api/accounts/${account.value}/imports/${props.work.id}/faults.csv`);
const ROWS_NOT_TAKEN_COLUMNS: Column[] = [
  { key: "row", label: "Row", class: "soft" },
  { key: "as_it_was", label: "As it was" },
  { key: "why", label: "Why", class: "rust" },
];
</script>

<template>
  <h2>{{ work.file_name }}</h2>
  <BProgress class="bar" :value="work.rows_done" :max="work.row_count" aria-label="Rows dealt with" />
  <p class="told" role="status">
    {{ number(work.rows_done) }} of {{ many(work.row_count, "row") }}, {{ STATES[work.state] }}:
    <span class="kelp">{{ number(work.added) }} new</span>, {{ number(work.changed) }} changed, {{ number(work.skipped) }} left as they
    were, <span :class="{ rust: work.failed }">{{ number(work.failed) }} not taken</span
    ><span v-if="work.partly" class="gorse">, {{ number(work.partly) }} without some cell</span
    ><template v-if="work.state === 'taken_back'"
      >; {{ many(work.kept, "person", "people") }} stayed, to whom something had happened since</template
    >.
  </p>
  <p class="actions">
    <BButton v-if="work.state === 'running'" variant="outline-primary" @click="emit('handle', 'stop')">Stop here</BButton>
    <BButton v-if="work.state === 'stopped'" variant="primary" @click="emit('handle', 'go-on')">Go on</BButton>
    <BLink v-if="toCorrect" class="btn btn-outline-primary" :href="link">The {{ many(toCorrect, "row") }} to correct, as CSV</BLink>
    <RouterLink v-if="work.state !== 'work'" :to="{ name: 'people' }">See the people</RouterLink>
  </p>
  <template v-if="faults?.rows.length">
    <h3>{{ work.partly ? (work.failed ? "Not taken, or not wholly" : "Not taken wholly") : "Not taken" }}</h3>
    <p class="small soft">Correct them in the file and bring it in again: its columns, tags and consent are taken as they were here.</p>
    <ul class="reasons">
      <li v-for="[reason, count] in faults.reasons as [string, number][]" :key="reason">
        <strong>{{ number(count) }}</strong> {{ reason }}
      </li>
    </ul>
    <DataTable caption="Rows not taken" :rows="faults.rows" :columns="ROWS_NOT_TAKEN_COLUMNS">
      <template #row="{ item: one }">{{ one.row }}</template>
      <template #as_it_was="{ item: one }">{{ one.cells.filter(Boolean).join(" · ") }}</template>
      <template #why="{ item: one }"
        ><span v-if="one.taken" class="gorse"><StateMark is="waits" /> came in, but for: {{ one.reason }}</span
        ><template v-else><StateMark is="look" /> {{ one.reason }}</template></template
      >
    </DataTable>
    <p v-if="toCorrect > 20" class="small soft">The first 20 of {{ number(toCorrect) }}; the file has all of them.</p>
  </template>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
}
h3 {
  margin: 16px 0 2px;
}
.bar {
  max-width: 46rem;
  height: 10px;
}
.told {
  font-size: 16px;
}
.reasons {
  columns: 2;
  padding: 0;
  margin: 6px 0 12px;
  list-style: none;
  max-width: 60rem;
}
.reasons strong {
  display: inline-block;
  min-width: 4.2em;
  text-align: right;
  margin-right: 8px;
}
</style>
