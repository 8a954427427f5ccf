<script setup lang="ts">
/** The open deals of a pipeline: stages across, and down when the next thing happens about each. Moved by keys and by dragging; what was
 * moved can be taken back. */
import { keepPreviousData } from "@tanstack/vue-query";
import { useMediaQuery } from "@vueuse/core";
import { computed, defineAsyncComponent, nextTick, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "@/api/client";
import { useMay, useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import WordPart from "@/shared/settings/WordPart.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { elementOf } from "@/ui/events";
import { TYPING } from "@/ui/keys";
import { takeBack, tell } from "@/ui/told";
import { many, money } from "@/ui/words";
import DealFilters from "./DealFilters.vue";
import DealLine from "./DealLine.vue";
import DealWays from "./DealWays.vue";
import { useMoving, whom, type To } from "@/shared/deals/useMoving";
import { rowWords } from "@/shared/deals/nextWords";
import { shown } from "./shown";

const NewDealAsk = defineAsyncComponent(() => import("@/shared/deals/NewDealAsk.vue"));
const LostAsk = defineAsyncComponent(() => import("@/shared/deals/LostAsk.vue"));
const EnrolAsk = defineAsyncComponent(() => import("@/shared/EnrolAsk.vue"));
type Deal = Schemas["DealOut"];
const route = useRoute();
const router = useRouter();
const may = useMay();
const { data: details } = useAccountDetails();
const now = computed(() => details.value?.local_now ?? "");
const text = (name: string) => String(route.query[name] ?? "");
const asked = computed(() => ({
  query: {
    pipeline: text("pipeline"),
    only: (["nothing", "long"] as const).find((one) => one === text("only")) ?? ("" as const),
    least: Number(text("least")) || 0,
    segment: text("segment"),
    whole: text("whole"),
    ...(text("whose") && { whose: Number(text("whose")) }),
  },
}));
const ask = (what: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...what } });
const { data, ...reading } = useRead("/deals", asked, { live: true, placeholderData: keepPreviousData });
const { move, going } = useMoving();
const rows = computed(() => shown(data.value?.rows ?? [], going.value));
const worth = (amount: unknown) => money(Number(amount), data.value?.currency ?? "GBP");

// ---- one stage at a time where there is no room for all
const narrow = useMediaQuery("(max-width: 760px)");
const stage = ref("");
const columns = computed(() => {
  const all = data.value?.columns ?? [];
  return narrow.value ? all.filter((one) => one.name === (stage.value || all[0]?.name)) : all;
});
const cellsOf = (row: Schemas["RowOut"]) => row.cells.filter((cell) => columns.value.some((one) => one.name === cell.stage));

// ---- which deal, and which others
const selected = ref(0);
const picked = ref(new Set<number>());
/** Down one column after the other, as the keys walk. */
const order = computed(() =>
  columns.value.flatMap((one) => rows.value.flatMap((row) => row.cells.find((cell) => cell.stage === one.name)?.deals ?? [])),
);
const current = computed(() => order.value.find((one) => one.id === selected.value));
const at = computed(() => (data.value?.columns ?? []).findIndex((one) => one.name === current.value?.stage));
const next = computed(() => (at.value < 0 ? undefined : data.value?.columns[at.value + 1]?.name));
const before = computed(() => (at.value < 1 ? undefined : data.value?.columns[at.value - 1]?.name));
/** What an act is about: those that are picked, else the one that is selected. */
const some = computed(() =>
  picked.value.size ? order.value.filter((one) => picked.value.has(one.id)) : current.value ? [current.value] : [],
);
async function select(id: number) {
  selected.value = id;
  await nextTick();
  document.getElementById(`deal-${id}`)?.focus({ preventScroll: false });
}
/** One that was just made: selected as soon as it is there. */
const wanted = ref(0);
watch(order, (now) => {
  const id = now.find((one) => one.id === wanted.value)?.id;
  if (!id) return;
  wanted.value = 0;
  void select(id);
});
function step(by: number) {
  const index = order.value.findIndex((one) => one.id === selected.value);
  const found = order.value[index < 0 ? 0 : Math.min(Math.max(index + by, 0), order.value.length - 1)];
  if (found) void select(found.id);
}
function pick(deals: Deal[]) {
  const all = deals.every((one) => picked.value.has(one.id));
  for (const one of deals)
    if (all) picked.value.delete(one.id);
    else picked.value.add(one.id);
}
async function go(to: To, deals = some.value) {
  const kept = selected.value;
  if (!may("people") || !(await move(deals, to))) return;
  picked.value.clear();
  if (order.value.some((one) => one.id === kept)) await select(kept);
  else step(0);
}
const asking = ref<"" | "new" | "lost" | "enrol">("");
const ACTS: Record<string, () => void> = {
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  ArrowRight: () => next.value && void go({ stage: next.value }),
  ArrowLeft: () => before.value && void go({ stage: before.value }),
  Enter: () => current.value && void router.push({ name: "deal", params: { deal: current.value.id } }),
  w: () => some.value.length && void go({ state: "won" }),
  l: () => some.value.length && may("people") && (asking.value = "lost"),
  e: () => some.value.length && may("people") && (asking.value = "enrol"),
  n: () => may("people") && (asking.value = "new"),
  Escape: () => picked.value.clear(),
};
function onKey(event: KeyboardEvent) {
  const on = elementOf(event);
  if (on?.closest(TYPING) || on?.closest("[role='dialog']")) return;
  if (event.key === "z" && (event.ctrlKey || event.metaKey)) void takeBack();
  else if (event.ctrlKey || event.metaKey || event.altKey) return;
  else if (event.key === " " && on?.closest(".deal") && current.value)
    pick(event.shiftKey ? order.value.filter((one) => one.stage === current.value?.stage) : [current.value]);
  else if (on?.closest("a, button") && ["Enter", " "].includes(event.key)) return;
  else if (ACTS[event.key]) ACTS[event.key]?.();
  else return;
  event.preventDefault();
}

// ---- dragging
const dragged = ref<Deal[]>([]);
const over = ref("");
function drag(deal: Deal, event: DragEvent) {
  dragged.value = picked.value.has(deal.id) ? some.value : [deal];
  event.dataTransfer?.setData("text/plain", whom(dragged.value));
}
function drop(to: string) {
  over.value = "";
  void go({ stage: to }, dragged.value);
}
function enrolled(said: string) {
  asking.value = "";
  tell(said);
}
</script>

<template>
  <div class="page" @keydown="onKey">
    <PageHead title="Deals">
      <template #beside
        ><span v-if="data?.pipeline" class="say"
          >in
          <WordPart
            :value="data.pipeline"
            label="Pipeline"
            :choices="data.pipelines.map((one) => ({ value: one, words: one }))"
            @keep="ask({ pipeline: $event, whole: undefined })" />: {{ data.count }} open, {{ worth(data.worth) }}. Won this month:
          {{ data.won.count }}, {{ worth(data.won.worth) }}. Lost: {{ data.lost.count }}, {{ worth(data.lost.worth) }}.</span
        ></template
      >
      <BButton v-if="may('people') && data?.pipeline" variant="primary" @click="asking = 'new'">New deal</BButton>
    </PageHead>
    <DealWays />
    <ReadState :of="reading" what="Deals">
      <EmptyState v-if="data && !data.pipeline"
        >There is no pipeline yet, and so no stage for a deal to stand in.<template v-if="may('set-up')">
          <RouterLink :to="{ name: 'pipelines' }">Make one in Set-up</RouterLink>.</template
        ></EmptyState
      >
      <template v-else-if="data">
        <DealFilters :data="data" :query="route.query" @ask="ask" />
        <p v-if="narrow" class="row">
          <label
            >Stage
            <BFormSelect v-model="stage"
              ><option v-for="(one, n) in data.columns" :key="one.name" :value="n ? one.name : ''">
                {{ one.name }}, {{ one.count }}
              </option></BFormSelect
            ></label
          >
        </p>
        <div class="across">
          <table :style="{ minWidth: `${(narrow ? 0 : 7.5) + columns.length * (narrow ? 18 : 12.5)}rem` }">
            <thead>
              <tr>
                <th class="ruler" scope="col"><span class="visually-hidden">What happens next</span></th>
                <th
                  v-for="one in columns"
                  :key="one.name"
                  scope="col"
                  :class="{ over: over === one.name }"
                  @dragover.prevent="over = one.name"
                  @dragleave="over = ''"
                  @drop.prevent="drop(one.name)">
                  <p class="stage" :title="one.means">
                    <b>{{ one.name }}</b><span class="fig">{{ one.count }}</span
                    ><span class="fig sum">{{ worth(one.worth) }}</span>
                  </p>
                  <p class="soft small">
                    {{ one.rest_days === null ? "rests as long as it likes" : `rests up to ${many(one.rest_days, "day")}`
                    }}<span v-if="one.longer" class="fig gorse">{{ one.longer }} longer</span>
                  </p>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in rows" :key="row.row" :class="row.row">
                <th class="ruler" scope="row">
                  <b>{{ rowWords(row, now) }}</b>
                  <span>{{ row.count }}, {{ worth(row.worth) }}</span>
                </th>
                <td
                  v-for="cell in cellsOf(row)"
                  :key="cell.stage"
                  :class="{ over: over === cell.stage }"
                  @dragover.prevent="over = cell.stage"
                  @dragleave="over = ''"
                  @drop.prevent="drop(cell.stage)">
                  <DealLine
                    v-for="one in cell.deals"
                    :key="one.id"
                    :deal="one"
                    :row="row.row"
                    :now="now"
                    :currency="data.currency"
                    :selected="one.id === selected"
                    :picked="picked.has(one.id)"
                    :may="may('people')"
                    :tabindex="one.id === selected || (!current && one === order[0]) ? 0 : -1"
                    @focus="selected = one.id"
                    @select="select(one.id)"
                    @drag="drag(one, $event)" />
                  <p v-if="cell.more" class="more">
                    <BButton variant="link" @click="ask({ whole: `${row.row}/${cell.stage}` })"
                      >{{ cell.more }} more<span class="visually-hidden"> in {{ cell.stage }}, {{ rowWords(row, now) }}</span></BButton
                    ><span class="fig">{{ worth(cell.more_worth) }}</span>
                  </p>
                </td>
              </tr>
              <tr v-if="!rows.length">
                <td :colspan="columns.length + 1" class="soft">
                  No deal is open{{ data.nothing || data.mine ? " of those that are shown" : "" }}.
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <footer v-if="some.length && may('people')" class="row keys" aria-label="What can be done">
          <b class="serif">{{ whom(some) }}</b>
          <BButton v-if="next" variant="link" @click="go({ stage: next })">to {{ next }} <kbd>→</kbd></BButton>
          <BButton v-if="before" variant="link" @click="go({ stage: before })">back to {{ before }} <kbd>←</kbd></BButton>
          <BButton variant="link" @click="go({ state: 'won' })">won <kbd>W</kbd></BButton>
          <BButton variant="link" @click="asking = 'lost'">lost, why <kbd>L</kbd></BButton>
          <BButton variant="link" @click="asking = 'enrol'">enrol <kbd>E</kbd></BButton>
          <span class="soft small"
            ><kbd>↑</kbd> <kbd>↓</kbd> walk, <kbd>Enter</kbd> opens, <kbd>Space</kbd> picks several, <kbd>Shift Space</kbd> the whole
            stage</span
          >
        </footer>
      </template>
    </ReadState>
    <NewDealAsk
      v-if="asking === 'new' && data"
      :pipeline="data.pipeline"
      :stages="data.columns.map((one) => one.name)"
      :currency="data.currency"
      @close="asking = ''"
      @done="((asking = ''), (wanted = $event))" />
    <LostAsk
      v-if="asking === 'lost' && data"
      :whom="whom(some)"
      :reasons="data.reasons"
      @close="asking = ''"
      @lost="((asking = ''), go({ state: 'lost', why: $event }))" />
    <EnrolAsk v-if="asking === 'enrol'" :deals="some.map((one) => one.id)" @close="asking = ''" @done="enrolled" />
  </div>
</template>

<style scoped src="./deals.css"></style>
