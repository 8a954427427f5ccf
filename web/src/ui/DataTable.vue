<script setup lang="ts" generic="Row extends object">
/** The one table: columns by name, a cell of each by the slot of its key, sorted by whoever gives the rows, some rows chosen,
 * page by page; on a phone each row becomes lines. What is said when there are none is the page's (EmptyState). */
import type { BTableSortBy, TableFieldRaw } from "bootstrap-vue-next/types";
import { computed } from "vue";

import type { Column } from "./columns";

const props = defineProps<{
  rows: readonly Row[];
  columns: readonly Column[];
  caption: string;
  busy?: boolean;
  /** Says which row a box chooses; without it none can be chosen. */
  chooses?: (row: Row) => string;
  rowClass?: (row: Row) => string | undefined | false;
  pages?: number;
}>();
const sorted = defineModel<string>("sorted"); // the key of a column, with "-" before it for the other way round
const chosen = defineModel<ReadonlySet<number>>("chosen");
const page = defineModel<number>("page", { default: 1 });
const slots = defineSlots<Record<string, (cell: { item: Row; index: number }) => unknown>>();

const idOf = (row: Row) => (row as { id?: number }).id ?? 0;
const asField = (one: Column) => ({
  key: one.key,
  label: one.hidesLabel ? "" : one.label,
  sortable: one.sortable,
  isRowHeader: one.heads,
  thClass: [one.num && "num", `of-${one.key}`],
  tdClass: [one.num && "num", one.class, `of-${one.key}`],
});
const fields = computed(
  () =>
    [
      ...(props.chooses ? [{ key: "choice", label: "", thClass: "choice", tdClass: "choice" }] : []),
      ...props.columns.map(asField),
    ] as TableFieldRaw<Row>[],
);
const sortBy = computed({
  get: (): BTableSortBy[] =>
    sorted.value ? [{ key: sorted.value.replace(/^-/, ""), order: sorted.value.startsWith("-") ? "desc" : "asc" }] : [],
  set: ([by]) => by && (sorted.value = `${by.order === "desc" ? "-" : ""}${by.key}`),
});
const all = computed({
  get: () => props.rows.length > 0 && props.rows.every((row) => chosen.value?.has(idOf(row))),
  set: (on) => choose(props.rows, on),
});
function choose(rows: readonly Row[], on: boolean) {
  const next = new Set(chosen.value);
  for (const row of rows)
    if (on) next.add(idOf(row));
    else next.delete(idOf(row));
  chosen.value = next;
}
</script>

<template>
  <BTable
    v-model:sort-by="sortBy"
    class="data"
    :class="{ stale: busy }"
    :items="rows as Row[]"
    :fields="fields"
    :caption="caption"
    :aria-busy="busy"
    :tbody-tr-class="(row: Row | null) => (row && rowClass?.(row)) || ''"
    stacked="md"
    hover
    must-sort
    no-local-sorting
    label-sort-asc=""
    label-sort-desc=""
    label-sort-clear="">
    <template v-if="chooses" #head(choice)
      ><BFormCheckbox v-model="all" plain :disabled="busy" aria-label="Choose all on this page"
    /></template>
    <template v-if="chooses" #cell(choice)="{ item }"
      ><BFormCheckbox
        plain
        :disabled="busy"
        :model-value="chosen?.has(idOf(item as Row))"
        :aria-label="chooses(item as Row)"
        @update:model-value="choose([item as Row], $event === true)"
    /></template>
    <template v-for="one in columns.filter((column) => column.hidesLabel)" #[`head(${one.key})`] :key="`head ${one.key}`"
      ><span class="visually-hidden">{{ one.label }}</span></template
    >
    <template v-for="one in columns" #[`cell(${one.key})`]="cell" :key="one.key"
      ><slot v-if="slots[one.key]" :name="one.key" :item="cell.item as Row" :index="cell.index" /><template v-else>{{
        cell.value
      }}</template></template
    >
  </BTable>
  <nav v-if="(pages ?? 1) > 1" :aria-label="`Pages of ${caption}`" class="pages">
    <BPagination
      v-model="page"
      :total-rows="pages"
      :per-page="1"
      first-number
      last-number
      prev-text="Before"
      next-text="Next"
      label-prev-page="Before: the page before"
      label-next-page="Next page"
      label-page="Page"
      no-goto-end-buttons />
  </nav>
</template>

<style scoped>
.stale {
  opacity: 0.7;
} /* what was asked before, until the answer comes */
.pages {
  margin-top: 14px;
}
</style>
