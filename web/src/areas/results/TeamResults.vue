<script setup lang="ts">
/** What workflows asked of each of the team, and what came of it. */
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
const { data, ...reading } = useRead("/results/team", () => ({ query: asked.value }), { live: true, placeholderData: (before) => before });
const COLUMNS: Column[] = [
  { key: "name", label: "Who", heads: true },
  { key: "calls", label: "Calls", num: true },
  { key: "to_dos", label: "To-dos", num: true },
  { key: "done", label: "Done", num: true },
  { key: "open", label: "Still open", num: true },
  { key: "reached", label: "Calls that reached somebody", num: true },
  { key: "plot", label: "0 to 100 %", class: "plot" },
  { key: "hours", label: "Done after it was due", num: true },
];
const late = (hours: number) => (hours < 0 ? "" : hours < 48 ? `${number(Math.round(hours))} h` : `${number(Math.round(hours / 24))} days`);
</script>

<template>
  <div class="page">
    <PageHead title="What the team did">
      <template v-if="data" #beside><PeriodPick :since="data.since" :until="data.until" :now="data.today" /></template>
    </PageHead>
    <ResultWays />
    <ReadState :of="reading" what="What the team did">
      <EmptyState v-if="data && !data.rows.length">No calls and no to-dos were asked for in these days.</EmptyState>
      <template v-else-if="data">
        <p class="soft small">Calls and to-dos that were asked for in these days, whoever did them when.</p>
        <DataTable caption="What the team did" :rows="data.rows" :columns="COLUMNS">
          <template #name="{ item }"
            ><span class="serif">{{ item.name }}</span></template
          >
          <template #reached="{ item }"
            ><template v-if="item.reached.of"
              >{{ number(item.reached.count) }} of {{ number(item.reached.of) }}
              <span class="small soft below">{{ item.reached.words }}</span></template
            ></template
          >
          <template #plot="{ item }"><IntervalDot v-if="item.reached.tells" :dots="[item.reached]" /></template>
          <template #hours="{ item }">{{ late(item.hours) }}</template>
        </DataTable>
        <p><AsFile table="team" :since="data.since" :until="data.until" /></p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.below {
  display: block;
}
</style>
