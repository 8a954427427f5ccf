<script setup lang="ts">
/** What the open deals of a pipeline will bring, by month, and how sure that is; how likely a deal is won from each stage; how long deals
 * take. Each in a sentence, a table and a plot. */
import { computed, defineAsyncComponent } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { many, money } from "@/ui/words";
import { monthsPlot, monthWords, percent, stepsPlot } from "./coming";
import DealWays from "./DealWays.vue";

const Plot = defineAsyncComponent(() => import("@/ui/plots/Plot.vue"));
const route = useRoute();
const router = useRouter();
const may = useMay();
const asked = computed(() => ({ query: { pipeline: String(route.query.pipeline ?? "") } }));
const { data, ...reading } = useRead("/deals/coming", asked, { live: true });
const worth = (amount: number) => money(Math.round(amount), data.value?.currency ?? "GBP");
const range = (one: { low: number; high: number }) => `${worth(one.low)} to ${worth(one.high)}`;
const share = (one: { value: number; low: number; high: number }) => `${percent(one.value)}, ${percent(one.low)} to ${percent(one.high)}`;
const last = computed(() => data.value?.told.at(-1));
const MONTHS: Column[] = [
  { key: "month", label: "Month", heads: true },
  { key: "deals", label: "Open deals", num: true },
  { key: "open", label: "If all were won", num: true },
  { key: "likely", label: "Likely", num: true },
  { key: "range", label: "In 80 of 100 cases", num: true },
];
const STAGES: Column[] = [
  { key: "stage", label: "From", heads: true },
  { key: "open", label: "Open there", num: true },
  { key: "counted", label: "Won of those that closed", num: true },
  { key: "set", label: "Set by hand", num: true },
  { key: "value", label: "Reckoned with", num: true },
];
const MOMENTS: Column[] = [
  { key: "days", label: "Within", heads: true },
  { key: "won", label: "Won", num: true },
  { key: "lost", label: "Lost", num: true },
  { key: "open", label: "Still open", num: true },
];
const stagesOf = computed(() => data.value?.stages.map((one, id) => ({ ...one, id })) ?? []);
</script>

<template>
  <div class="page">
    <PageHead title="What deals will bring">
      <template #beside
        ><span v-if="data?.pipeline" class="say"
          >in
          <WordPart
            :value="data.pipeline"
            label="Pipeline"
            :choices="data.pipelines.map((one) => ({ value: one, words: one }))"
            @keep="router.replace({ query: { pipeline: $event } })" /></span
      ></template>
    </PageHead>
    <DealWays />
    <ReadState :of="reading" what="What deals will bring">
      <template v-if="data">
        <template v-if="data.all">
          <p class="sum">
            {{ many(data.all.deals, "open deal") }} worth {{ worth(data.all.open) }} will likely bring <b>{{ worth(data.all.likely) }}</b>:
            in {{ data.sure }} of 100 cases between {{ worth(data.all.low) }} and {{ worth(data.all.high) }}.
          </p>
          <div class="two">
            <DataTable caption="What they will bring, by month" :rows="data.months" :columns="MONTHS">
              <template #month="{ item }">{{ monthWords(item.month) }}</template>
              <template #open="{ item }">{{ worth(item.open) }}</template>
              <template #likely="{ item }">{{ worth(item.likely) }}</template>
              <template #range="{ item }">{{ range(item) }}</template>
            </DataTable>
            <Plot
              :option="monthsPlot(data.months, worth)"
              :height="60 + 34 * data.months.length"
              :says="`What open deals will likely bring: ${data.months.map((one) => `${monthWords(one.month)} ${worth(one.likely)}, ${range(one)}`).join('; ')}.`" />
          </div>
          <p class="small soft">
            Worth times likelihood; the range by drawing two thousand times. Deals are drawn apart from each other, so one bad season for
            all is not in it.
            <template v-if="data.left_out"
              >{{ many(data.left_out, "open deal is", "open deals are") }} left out: of the stages they are in, none has closed yet and
              nothing was set.</template
            >
          </p>
        </template>
        <EmptyState v-else
          >Nothing can be said yet: no open deal stands in a stage from which one was won or lost, and no likelihood is set.<template
            v-if="may('set-up')">
            <RouterLink :to="{ name: 'pipelines' }">Set one in Pipelines</RouterLink>.</template
          ></EmptyState
        >
        <h2>How likely from each stage</h2>
        <DataTable caption="How likely a deal is won, from each stage" :rows="stagesOf" :columns="STAGES">
          <template #counted="{ item }">{{ item.closed ? `${item.won} of ${item.closed}` : "none closed yet" }}</template>
          <template #set="{ item }">{{ item.set === null ? "" : `${item.set} %` }}</template>
          <template #value="{ item }"
            ><span :class="{ gorse: item.value === null }">{{ item.value === null ? "not known" : percent(item.value) }}</span></template
          >
        </DataTable>
        <h2>How long a deal takes</h2>
        <template v-if="last">
          <p class="sum">
            Of {{ many(data.deals, "deal") }}, open ones counted: {{ percent(last.won.value) }} are won within {{ many(last.days, "day") }},
            {{ percent(last.lost.value) }} lost, {{ percent(last.open) }} still open.
          </p>
          <div class="two">
            <DataTable caption="Won, lost and still open, by days" :rows="data.told" :columns="MOMENTS">
              <template #days="{ item }">{{ many(item.days, "day") }}</template>
              <template #won="{ item }">{{ share(item.won) }}</template>
              <template #lost="{ item }">{{ share(item.lost) }}</template>
              <template #open="{ item }">{{ percent(item.open) }}</template>
            </DataTable>
            <Plot
              :option="stepsPlot(data.steps)"
              :says="`Deals won and lost by days since they were made: ${data.told.map((one) => `within ${one.days} days ${percent(one.won.value)} won, ${percent(one.lost.value)} lost`).join('; ')}.`" />
          </div>
          <p class="small soft">Won and lost compete, so both are counted at once (Aalen and Johansen); each with its 95 % interval.</p>
        </template>
        <p v-else class="soft">No deal has been won or lost yet.</p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.say {
  font: 16px/1.5 var(--serif);
}
.sum {
  font: 18px/1.5 var(--serif);
  margin: 8px 0;
}
h2 {
  margin: 22px 0 4px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 36px;
  align-items: start;
}
@media (max-width: 900px) {
  .two {
    display: block;
  }
}
</style>
