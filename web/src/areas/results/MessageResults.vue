<script setup lang="ts">
/** What went out and what came of it, by message, channel, sender, wording or week. */
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { many, number } from "@/ui/words";
import AsFile from "./AsFile.vue";
import CountedHow from "./CountedHow.vue";
import IntervalDot from "./IntervalDot.vue";
import { usePeriod } from "./period";
import PeriodPick from "./PeriodPick.vue";
import ResultWays from "./ResultWays.vue";

type Rate = Schemas["RateOut"];
type Row = Schemas["SentTableRow"];
const BY = [
  { value: "message", words: "by message" },
  { value: "channel", words: "by channel" },
  { value: "sender", words: "by sender" },
  { value: "wording", words: "by wording" },
  { value: "week", words: "by week" },
] as const;
const route = useRoute();
const router = useRouter();
const { asked } = usePeriod();
const by = computed(() => BY.find((one) => one.value === route.query.by)?.value ?? "message");
const { data, ...reading } = useRead("/results/messages", () => ({ query: { ...asked.value, by: by.value } }), {
  live: true,
  placeholderData: (before) => before,
});
const rows = computed<Row[]>(() => (data.value ? [...data.value.rows, { name: "All", about: "", sent: data.value.all }] : []));
const COLUMNS: Column[] = [
  { key: "name", label: "Of", heads: true },
  { key: "tried", label: "Tried", num: true },
  { key: "delivered", label: "Delivered", num: true },
  { key: "failed", label: "Failed" },
  { key: "clicked", label: "Clicked", num: true },
  { key: "replied", label: "Replied", num: true },
  { key: "plot", label: "Replied, 0 to 60 %", class: "plot" },
  { key: "booked", label: "Booked next", num: true },
  { key: "reached", label: "Aim reached next", num: true },
  { key: "out", label: "Opted out", num: true },
];
const beside = (one: Rate | null) => (one?.count ? one.words : "");
</script>

<template>
  <div class="page">
    <PageHead title="What went out, and what came of it">
      <template v-if="data" #beside
        ><span class="by"
          ><WordPart :value="by" label="Told apart" :choices="BY" @keep="router.replace({ query: { ...route.query, by: $event } })" /></span
        ><PeriodPick :since="data.since" :until="data.until" :now="data.today"
      /></template>
    </PageHead>
    <ResultWays />
    <ReadState :of="reading" what="Results of messages">
      <EmptyState v-if="data && !data.rows.length">{{
        by === "wording" ? "No message has several wordings in these days." : "Nothing went out in these days."
      }}</EmptyState>
      <template v-else-if="data">
        <DataTable caption="What went out" :rows="rows" :columns="COLUMNS" :row-class="(row) => row.name === 'All' && 'sum'">
          <template #name="{ item }"
            ><span class="name">{{ item.name }}</span> <span v-if="item.about" class="small soft about">{{ item.about }}</span></template
          >
          <template #tried="{ item }">{{ number(item.sent.tried) }}</template>
          <template #delivered="{ item }">{{ number(item.sent.delivered) }}</template>
          <template #failed="{ item }"
            ><template v-if="item.sent.failed"
              ><span class="rust">{{ number(item.sent.failed) }}</span>
              <span class="small soft about">{{ item.sent.why.map((one) => `${one.count} ${one.why}`).join(" · ") }}</span></template
            ></template
          >
          <template #clicked="{ item }"
            ><template v-if="item.sent.clicked"
              >{{ number(item.sent.clicked.count) }}<span class="small soft about">{{ beside(item.sent.clicked) }}</span></template
            ></template
          >
          <template #replied="{ item }"
            >{{ number(item.sent.replied.count) }}<span class="small soft about">{{ beside(item.sent.replied) }}</span></template
          >
          <template #plot="{ item }"><IntervalDot v-if="item.sent.replied.tells" :dots="[item.sent.replied]" :to="0.6" /></template>
          <template #booked="{ item }"
            >{{ number(item.sent.booked.count) }}<span class="small soft about">{{ beside(item.sent.booked) }}</span></template
          >
          <template #reached="{ item }"
            >{{ number(item.sent.reached.count)
            }}<span class="small soft about">{{ [beside(item.sent.reached), item.sent.worth].filter(Boolean).join(", ") }}</span></template
          >
          <template #out="{ item }"
            >{{ number(item.sent.opted_out.count)
            }}<span v-if="item.sent.complained" class="small rust about">{{ many(item.sent.complained, "complaint") }}</span></template
          >
        </DataTable>
        <p><AsFile :table="by" :since="data.since" :until="data.until" /></p>
        <CountedHow />
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.by {
  font: 16px/1.5 var(--serif);
}
.name {
  font: 16px/1.3 var(--serif);
}
.about {
  display: block;
}
:deep(.sum td) {
  border-top: 1px solid var(--ink);
  font-weight: 600;
}
</style>
