<script setup lang="ts">
/** How people had become known who came into workflows, and how many of each reached the aim. */
import { useRead } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { number } from "@/ui/words";
import AsFile from "./AsFile.vue";
import IntervalDot from "./IntervalDot.vue";
import { usePeriod } from "./period";
import PeriodPick from "./PeriodPick.vue";
import ResultWays from "./ResultWays.vue";

const { asked } = usePeriod();
const { data, ...reading } = useRead("/results/sources", () => ({ query: asked.value }), {
  live: true,
  placeholderData: (before) => before,
});
const COLUMNS: Column[] = [
  { key: "name", label: "How they became known", heads: true },
  { key: "joined", label: "Came in", num: true },
  { key: "reached", label: "Reached the aim", num: true },
  { key: "plot", label: "0 to 100 %", class: "plot" },
  { key: "worth", label: "Worth", num: true },
];
</script>

<template>
  <div class="page">
    <PageHead title="Where people came from">
      <template v-if="data" #beside><PeriodPick :since="data.since" :until="data.until" :now="data.today" /></template>
    </PageHead>
    <ResultWays />
    <ReadState :of="reading" what="Where people came from">
      <EmptyState v-if="data && !data.rows.length">Nobody came into a workflow in these days.</EmptyState>
      <template v-else-if="data">
        <p class="soft small">
          Of all workflows together, each person as often as they came in: aims differ, so this says where to look, not which way is better.
        </p>
        <DataTable caption="Where people came from" :rows="data.rows" :columns="COLUMNS">
          <template #name="{ item }"
            ><span class="serif">{{ item.name }}</span></template
          >
          <template #joined="{ item }"
            >{{ number(item.joined)
            }}<span v-if="item.young" class="small soft below">{{ number(item.young) }} with days left</span></template
          >
          <template #reached="{ item }"
            ><template v-if="item.rate.of"
              >{{ number(item.rate.count) }} of {{ number(item.rate.of)
              }}<span class="small soft below">{{ item.rate.words }}</span></template
            ></template
          >
          <template #plot="{ item }"><IntervalDot v-if="item.rate.tells" :dots="[item.rate]" /></template>
        </DataTable>
        <p><AsFile table="sources" :since="data.since" :until="data.until" /></p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.below {
  display: block;
}
</style>
