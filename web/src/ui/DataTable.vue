<script setup lang="ts" generic="Row extends object">
/** The one table: columns by name, a cell of each by the slot of its key, sorted by whoever gives the rows, some rows chosen,
 * page by page; on a phone each row becomes lines. Of hundreds of rows only those in sight, and some around them, are drawn. What is said when there are none is the page's (EmptyState). */
import type { BTableSortBy, TableFieldRaw } from "bootstrap-vue-next/types";
import { useWindowVirtualizer } from "@tanstack/vue-virtual";
import { useMutationObserver } from "@vueuse/core";
import { computed, onMounted, ref, useId, useTemplateRef } from "vue";

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
// ---- thousands of rows
const MANY = 200;
const ROW = 37; // px, until a row was measured
const box = useTemplateRef<HTMLElement>("box");
const top = ref(0); // px of the page above the rows
const isMany = computed(() => props.rows.length > MANY);
const virtual = useWindowVirtualizer(
  computed(() => ({
    count: isMany.value ? props.rows.length : 0,
    estimateSize: () => ROW,
    overscan: 20,
    scrollMargin: top.value,
  })),
);
const inSight = computed(() => virtual.value.getVirtualItems());
const first = computed(() => (isMany.value ? (inSight.value[0]?.index ?? 0) : 0));
const drawn = computed(() => (isMany.value ? props.rows.slice(first.value, (inSight.value.at(-1)?.index ?? MANY) + 1) : props.rows));
/** Room in place of the rows that are not drawn, before and after those that are. */
const room = computed(() => {
  const before = (inSight.value[0]?.start ?? top.value) - top.value;
  const after = virtual.value.getTotalSize() - ((inSight.value.at(-1)?.end ?? top.value) - top.value);
  return isMany.value ? { "--before": `${before}px`, "--after": `${Math.max(0, after)}px` } : {};
});
function measure() {
  const body = isMany.value && box.value?.querySelector("tbody");
  if (!body) return;
  top.value = Math.round(body.getBoundingClientRect().top + window.scrollY);
  for (const [at, row] of [...body.rows].entries()) {
    row.dataset.index = String(first.value + at);
    row.ariaRowIndex = String(first.value + at + 2); // counted from one, the heads first
    virtual.value.measureElement(row);
  }
}
/** What can be done with a row is called the same in each: who hears it is told of which row. */
const id = useId();
function nameRows() {
  for (const [at, row] of [...(box.value?.querySelectorAll("tbody > tr") ?? [])].entries()) {
    const head = row.querySelector("th") ?? row.querySelector("td:not(.choice)");
    if (!head) continue;
    head.id = `${id}-${first.value + at}`;
    for (const one of row.querySelectorAll(".of-acts button:not([aria-label]), .of-acts a:not([aria-label])"))
      one.setAttribute("aria-describedby", head.id);
  }
}
function settle() {
  nameRows();
  measure();
}
onMounted(settle);
useMutationObserver(box, settle, { childList: true, subtree: true }); // cells are drawn anew without the table, too
</script>

<template>
  <div ref="box" :class="{ many: isMany }" :style="room">
    <BTable
      v-model:sort-by="sortBy"
      class="data"
      :class="{ stale: busy }"
      :items="drawn as Row[]"
      :aria-rowcount="isMany ? rows.length + 1 : undefined"
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
        ><slot v-if="slots[one.key]" :name="one.key" :item="cell.item as Row" :index="first + cell.index" /><template v-else>{{
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
  </div>
</template>

<style scoped>
.stale {
  opacity: 0.7;
} /* what was asked before, until the answer comes */
.many :deep(tbody)::before,
.many :deep(tbody)::after {
  content: "";
  display: table-row;
  height: var(--before);
}
.many :deep(tbody)::after {
  height: var(--after);
}
@media (max-width: 767.98px) {
  .many :deep(tbody)::before,
  .many :deep(tbody)::after {
    display: block;
  }
}
.pages {
  margin-top: 14px;
}
</style>
