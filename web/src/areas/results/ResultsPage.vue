<script setup lang="ts">
/** An account's workflows beside each other: how many came in, how many reached what it is for, whether that moved beyond chance. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { many, number } from "@/ui/words";
import AsFile from "./AsFile.vue";
import CountedHow from "./CountedHow.vue";
import IntervalDot from "./IntervalDot.vue";
import { daysWords, usePeriod } from "./period";
import PeriodPick from "./PeriodPick.vue";
import ResultWays from "./ResultWays.vue";
import WeekBars from "./WeekBars.vue";

const { asked } = usePeriod();
const { data, ...reading } = useRead("/results", () => ({ query: asked.value }), { live: true, placeholderData: (before) => before });
const COLUMNS: Column[] = [
  { key: "name", label: "Workflow", heads: true },
  { key: "joined", label: "Came in", num: true },
  { key: "reached", label: "Reached the aim", num: true },
  { key: "share", label: "0 to 100 %", class: "plot" },
  { key: "against", label: "Against before" },
  { key: "weeks", label: "By week: reached it, did not, days left", class: "plot" },
  { key: "messages", label: "Messages", num: true },
  { key: "out", label: "Opted out", num: true },
  { key: "inside", label: "Inside now", num: true },
];
const days = computed(() => ({ since: data.value?.since, until: data.value?.until }));
const withAim = computed(() => data.value?.rows.filter((one) => one.aim).length ?? 0);
</script>

<template>
  <div class="page">
    <PageHead title="Results">
      <template v-if="data" #beside><PeriodPick :since="data.since" :until="data.until" :now="data.today" /></template>
    </PageHead>
    <ResultWays />
    <ReadState :of="reading" what="Results">
      <EmptyState v-if="data && !data.rows.length"
        >Nobody came into a workflow in these days, and no message went out. Choose other days, or
        <RouterLink :to="{ name: 'workflows' }">publish a workflow</RouterLink>.</EmptyState
      >
      <template v-else-if="data">
        <p v-for="one in data.sentences" :key="one" class="sentence">{{ one }}</p>
        <p v-if="!withAim" class="sentence">
          No workflow says what it is for, so nobody can say what came of it. Name an aim in the head of a
          <RouterLink :to="{ name: 'workflows' }">workflow’s script</RouterLink>.
        </p>
        <p class="small soft">
          Those who came in {{ daysWords(data.since, data.until) }}, against {{ daysWords(data.before_since, data.before_until) }}.
          {{ data.by_chance }} <AsFile table="workflows" :since="data.since" :until="data.until" />
          <span v-if="data.counting" role="status">{{ many(data.counting, "day is", "days are") }} still being counted.</span>
        </p>
        <DataTable caption="Results of workflows" :rows="data.rows" :columns="COLUMNS">
          <template #name="{ item }"
            ><RouterLink class="name" :to="{ name: 'results-workflow', params: { workflow: item.id }, query: days }">{{
              item.name
            }}</RouterLink>
            <span class="small soft aim">{{ item.aim || "no aim is named" }}</span></template
          >
          <template #joined="{ item }"
            >{{ number(item.joined)
            }}<span v-if="item.young" class="small soft below">{{ number(item.young) }} with days left</span></template
          >
          <template #reached="{ item }"
            ><template v-if="item.aim && item.rate.of"
              >{{ number(item.rate.count) }} of {{ number(item.rate.of)
              }}<span class="small soft below">{{ item.rate.words }}</span></template
            ></template
          >
          <template #share="{ item }"><IntervalDot v-if="item.aim && item.rate.tells" :dots="[item.rate]" /></template>
          <template #against="{ item }"
            ><template v-if="item.aim"
              ><IntervalDot
                v-if="item.against.way !== 'few'"
                :dots="[{ ...item.against, drawn: item.against.way === 'same' ? 'open' : 'strong' }]"
                :from="-0.4"
                :to="0.4"
                :width="104" /><span :class="['small', item.against.way === 'same' || item.against.way === 'few' ? 'soft' : 'moved']">{{
                item.against.way === "rose" || item.against.way === "fell"
                  ? `${item.against.way} ${item.against.words}`
                  : item.against.words
              }}</span></template
            ></template
          >
          <template #weeks="{ item }"><WeekBars v-if="item.aim" :weeks="item.weeks" :of="item.name" /></template>
          <template #messages="{ item }"
            >{{ number(item.tried) }}<span v-if="item.failed" class="small rust below">{{ number(item.failed) }} failed</span></template
          >
          <template #out="{ item }"
            >{{ number(item.opted_out)
            }}<span v-if="item.complained" class="small rust below">{{ many(item.complained, "complaint") }}</span></template
          >
          <template #inside="{ item }"
            ><RouterLink v-if="item.inside" :to="{ name: 'workflow', params: { workflow: item.id }, query: { look: 'watch' } }"
              >{{ number(item.inside) }}<span class="visually-hidden"> inside {{ item.name }}</span></RouterLink
            ><template v-else>0</template></template
          >
        </DataTable>
        <CountedHow />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.sentence {
  font: 18px/1.45 var(--serif);
  margin: 0 0 4px;
}
.name {
  font: 17px/1.3 var(--serif);
}
.aim,
.below {
  display: block;
}
.below {
  white-space: nowrap;
}
.moved {
  font-weight: 600;
}
</style>
