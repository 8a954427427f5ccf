<script setup lang="ts">
/** What the workflow added: those written to beside those held back on purpose, and the difference, each with its interval. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { number } from "@/ui/words";
import IntervalDot from "./IntervalDot.vue";

const props = defineProps<{ data: Schemas["WorkflowResults"] }>();
const hundred = (part: number) => Math.round(100 * part);
const COLUMNS: Column[] = [
  { key: "of", label: "Who", heads: true },
  { key: "count", label: "Reached the aim", num: true },
  { key: "plot", label: "0 to 100 %", hidesLabel: true },
  { key: "words", label: "How sure", hidesLabel: true },
];
const rows = computed(() => {
  const { rate, held, added } = props.data;
  const found = [
    { of: "Written to", count: `${number(rate.count)} of ${number(rate.of)}`, dots: rate.tells ? [rate] : [], from: 0, words: rate.words },
    ...(held
      ? [
          {
            of: "Held back",
            count: `${number(held.count)} of ${number(held.of)}`,
            dots: held.tells ? [held] : [],
            from: 0,
            words: held.words,
          },
        ]
      : []),
  ];
  if (!added) return found;
  const people = `some ${number(added.people)} people (${number(added.people_low)} to ${number(added.people_high)})`;
  const worth = [people, added.money].filter(Boolean).join(", ");
  return [
    ...found,
    {
      of: "Added, of 100",
      count: `${hundred(added.value)} (${hundred(added.low)} to ${hundred(added.high)})`,
      dots: [{ ...added, drawn: added.tells ? ("strong" as const) : ("open" as const) }],
      from: -1,
      words: added.tells ? worth : "nobody can tell yet",
    },
  ];
});
</script>

<template>
  <section class="added">
    <h2>What it added</h2>
    <DataTable caption="Who reached the aim, of those written to and of those held back" :rows="rows" :columns="COLUMNS">
      <template #of="{ item }">{{ item.of }}</template>
      <template #plot="{ item }"><IntervalDot v-if="item.dots.length" :dots="item.dots" :from="item.from" :width="200" /></template>
    </DataTable>
    <p v-if="!data.added" class="soft">Too few are held back to tell what it adds.</p>
  </section>
</template>

<style scoped>
.added {
  margin: 14px 0;
  max-width: 52rem;
}
</style>
