<script setup lang="ts">
/** Deals as a list: open, won or lost, in a sentence which; sorted by any figure. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import WordPart from "@/shared/settings/WordPart.vue";
import { howLong, whatNext, whenNext } from "@/shared/deals/nextWords";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { dayOf, many, money } from "@/ui/words";
import DealFilters from "./DealFilters.vue";
import DealWays from "./DealWays.vue";

type State = Schemas["ListedDealOut"]["state"];
type Sort = "next" | "contact" | "name" | "stage" | "value" | "days" | "expected_on" | "owner" | "closed_at";
const SORTS: Sort[] = ["next", "contact", "name", "stage", "value", "days", "expected_on", "owner", "closed_at"];
const STATES: State[] = ["open", "won", "lost"];
const route = useRoute();
const router = useRouter();
const { data: details } = useAccountDetails();
const now = computed(() => details.value?.local_now ?? "");
const text = (name: string) => String(route.query[name] ?? "");
const state = computed(() => STATES.find((one) => one === text("state")) ?? "open");
const sorted = computed({
  get: () => text("sort") || (state.value === "open" ? "next" : "-closed_at"),
  set: (sort) => ask({ sort, page: undefined }),
});
const page = computed({
  get: () => Math.max(1, Number(text("page")) || 1),
  set: (one) => ask({ page: one > 1 ? String(one) : undefined }),
});
const asked = computed(() => ({
  query: {
    pipeline: text("pipeline"),
    state: state.value,
    only: (["nothing", "long"] as const).find((one) => one === text("only")) ?? ("" as const),
    least: Number(text("least")) || 0,
    stage: text("stage"),
    segment: text("segment"),
    sort: SORTS.find((one) => one === sorted.value.replace(/^-/, "")) ?? ("next" as const),
    down: sorted.value.startsWith("-"),
    page: page.value,
    ...(text("whose") && { whose: Number(text("whose")) }),
  },
}));
const ask = (what: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...what } });
const { data, ...reading } = useRead("/deals/list", asked, { live: true, placeholderData: keepPreviousData });
const worth = (amount: unknown) => money(Number(amount), data.value?.currency ?? "GBP");
const columns = computed<Column[]>(() => [
  { key: "contact", label: "Who", heads: true, sortable: true, class: "serif" },
  { key: "name", label: "What about", sortable: true },
  { key: "stage", label: "Stage", sortable: true },
  { key: "value", label: "Worth", num: true, sortable: true },
  ...(state.value === "open"
    ? [
        { key: "days", label: "Days here", num: true, sortable: true },
        { key: "next", label: "What is next", sortable: true },
        { key: "expected_on", label: "Expected", sortable: true },
      ]
    : [
        { key: "closed_at", label: state.value === "won" ? "Won" : "Lost", sortable: true },
        ...(state.value === "lost" ? [{ key: "why", label: "Why" }] : []),
      ]),
  { key: "owner", label: "Whose", sortable: true },
]);
</script>

<template>
  <div class="page">
    <PageHead title="Deals">
      <template #beside
        ><span v-if="data?.pipeline" class="say"
          >in
          <WordPart
            :value="data.pipeline"
            label="Pipeline"
            :choices="data.pipelines.map((one) => ({ value: one, words: one }))"
            @keep="ask({ pipeline: $event, stage: undefined, page: undefined })" />
          that are
          <WordPart
            :value="state"
            label="Open, won or lost"
            :choices="STATES.map((one) => ({ value: one, words: one }))"
            @keep="ask({ state: $event === 'open' ? undefined : $event, sort: undefined, page: undefined })" />: {{ data.count }},
          {{ worth(data.worth) }}.</span
        ></template
      >
    </PageHead>
    <DealWays />
    <ReadState :of="reading" what="Deals">
      <template v-if="data">
        <DealFilters :data="data" :query="route.query" @ask="ask({ ...$event, page: undefined })" />
        <DataTable
          v-if="data.deals.length"
          v-model:sorted="sorted"
          v-model:page="page"
          caption="Deals"
          :rows="data.deals"
          :columns="columns"
          :pages="data.pages">
          <template #contact="{ item }"
            ><RouterLink :to="{ name: 'deal', params: { deal: item.id } }">{{ item.contact }}</RouterLink></template
          >
          <template #value="{ item }">{{ worth(item.value) }}</template>
          <template #days="{ item }"
            ><span :class="{ gorse: item.over }">{{ item.over ? howLong(item) : item.days }}</span></template
          >
          <template #next="{ item }"
            ><span :class="{ thrift: ['nothing', 'task', 'answer'].includes(item.next.sort) }">{{ whatNext(item.next) }}</span
            >{{ whenNext(item.next, "later", now) ? `, ${whenNext(item.next, "later", now)}` : "" }}</template
          >
          <template #expected_on="{ item }">{{ item.expected_on ? dayOf(item.expected_on, now) : "" }}</template>
          <template #closed_at="{ item }">{{ item.closed_on ? dayOf(item.closed_on, now) : "" }}</template>
        </DataTable>
        <EmptyState v-else
          >No deal is {{ state }}{{ data.mine || data.nothing ? " of those that are shown" : "" }}.
          <RouterLink :to="{ name: 'deals' }">New ones are made by what is next</RouterLink>, or by a workflow.</EmptyState
        >
        <p v-if="data.pages > 1" class="soft small">{{ many(data.count, "deal") }}, a hundred on a page.</p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
.say {
  font: 16px/1.5 var(--serif);
}
</style>
