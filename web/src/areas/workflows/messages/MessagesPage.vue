<script setup lang="ts">
/** The library: every message of the account, what it is for, who says it, and what became of it in 30 days. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useMay, useRead } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { useAsking } from "@/ui/useAsking";
import { many, share } from "@/ui/words";
import MessageLook from "./MessageLook.vue";
import NewMessageAsk from "./NewMessageAsk.vue";
import ReplaceAsk from "./ReplaceAsk.vue";
import ShownState from "../shown/ShownState.vue";
import WrittenOnce from "./WrittenOnce.vue";

type Row = Schemas["MessageRow"];
const { data, ...reading } = useRead("/messages", undefined, { live: true });
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const asking = useAsking("new", "replace");
const FIGURES = ["clicked", "answered", "opted_out"] as const;
/** Of which messages a figure is a share: of those with a link, of those that can be answered, of all. */
function base(row: Row, figure: (typeof FIGURES)[number]): number {
  if (figure === "clicked") return row.figures.with_link;
  return figure === "answered" && !row.answered_by.length ? 0 : row.figures.sent;
}
const COLUMNS: (Column & { by: (row: Row) => string | number })[] = [
  { key: "name", label: "Message", heads: true, by: (row) => row.name.toLowerCase() },
  { key: "channels", label: "By", by: (row) => row.channels.join() },
  { key: "purpose", label: "For", by: (row) => row.purpose },
  { key: "labels", label: "Label", by: (row) => row.labels.join().toLowerCase() },
  { key: "said_by", label: "Said by", by: (row) => -row.said_by.length },
  { key: "sent", label: "Sent, 30 days", num: true, by: (row) => -row.figures.sent },
  { key: "clicked", label: "Clicked", num: true, by: (row) => -row.figures.clicked },
  { key: "answered", label: "Answered", num: true, by: (row) => -row.figures.answered },
  { key: "opted_out", label: "Opted out", num: true, by: (row) => -row.figures.opted_out },
];
const columns: Column[] = COLUMNS.map((one) => ({ ...one, sortable: true }));
const by = ref("sent");
const q = ref("");
const label = ref("");
const which = ref("all of them");
const WHICH: [string, (row: Row) => boolean][] = [
  ["all of them", (row) => !row.archived],
  ["that need somebody", (row) => !row.archived && (row.errors > 0 || row.unpublished || !row.version || !!row.shown?.remark_by)],
  ["that nothing says", (row) => !row.archived && !row.said_by.length],
  ["by email", (row) => !row.archived && row.channels.includes("email")],
  ["by text", (row) => !row.archived && row.channels.includes("text")],
  ["for marketing", (row) => !row.archived && row.purpose === "marketing"],
  ["for service", (row) => !row.archived && row.purpose === "service"],
  ["in the archive", (row) => row.archived],
];
const labels = computed(() => [...new Set(data.value?.flatMap((row) => row.labels))].sort());
const rows = computed(() => {
  const value = COLUMNS.find((one) => one.key === by.value.replace("-", ""))?.by ?? ((row: Row) => row.name);
  const turned = by.value.startsWith("-") ? -1 : 1;
  const words = q.value.toLowerCase();
  const fits = WHICH.find(([one]) => one === which.value)?.[1] ?? (() => true);
  const found = data.value?.filter(
    (row) =>
      fits(row) &&
      (!label.value || row.labels.includes(label.value)) &&
      `${row.name} ${row.labels.join(" ")} ${Object.values(row.words).join(" ")}`.toLowerCase().includes(words),
  );
  return found?.sort((a, b) => turned * (value(a) < value(b) ? -1 : value(a) > value(b) ? 1 : 0));
});
const chosen = ref(0);
const looked = computed(() => rows.value?.find((row) => row.id === chosen.value) ?? rows.value?.[0]);
const needing = computed(
  () => data.value?.filter((row) => !row.archived && (row.errors > 0 || row.unpublished || row.shown?.remark_by)).length ?? 0,
);
const about = computed(() => {
  const all = data.value?.filter((row) => !row.archived).length;
  const need = needing.value ? `, of which ${needing.value} ${needing.value === 1 ? "needs" : "need"} you` : "";
  return all ? `${all}${need}` : "";
});
const sum = computed(() => {
  const all = rows.value ?? [];
  const total = (of: (row: Row) => number) => all.reduce((found, row) => found + of(row), 0);
  return {
    sent: total((row) => row.figures.sent),
    link: total((row) => row.figures.with_link),
    open: total((row) => (row.answered_by.length ? row.figures.sent : 0)),
  };
});
/** A row is looked at where it is pointed at, as well as by the name it has the focus on. */
function choose(event: Event) {
  const link = event.target instanceof Element ? event.target.closest("tr")?.querySelector<HTMLElement>("[data-message]") : null;
  if (link?.dataset.message) chosen.value = Number(link.dataset.message);
}
</script>

<template>
  <div class="page">
    <PageHead title="Messages" :about="about"
      ><template #beside
        ><BFormInput v-model="q" type="search" aria-label="Search the messages" placeholder="search in what they say" />
        <BFormSelect v-model="which" aria-label="Which messages"
          ><option v-for="[words] in WHICH" :key="words">{{ words }}</option></BFormSelect
        >
        <BFormSelect v-if="labels.length" v-model="label" aria-label="With which label"
          ><option value="">with any label</option>
          <option v-for="one in labels" :key="one">{{ one }}</option></BFormSelect
        ></template
      >
      <BButton v-if="may && data?.length" variant="link" @click="asking = 'replace'">Find and replace</BButton>
      <BButton v-if="may" variant="primary" @click="asking = 'new'">Write a message</BButton></PageHead
    >
    <ReadState :of="reading" what="The messages">
      <div v-if="rows?.length" class="ledger">
        <div @click="choose" @focusin="choose">
          <DataTable
            v-model:sorted="by"
            caption="Messages"
            :rows="rows"
            :columns="columns"
            :row-class="(row) => row.id === looked?.id && 'looked'">
            <template #name="{ item: row }"
              ><RouterLink class="serif name" :data-message="row.id" :to="{ name: 'message', params: { message: row.id } }">{{
                row.name
              }}</RouterLink>
              <small v-if="row.errors" class="rust mark"><StateMark is="failed" /> {{ many(row.errors, "thing") }} to mend</small>
              <small v-else-if="!row.version" class="gorse mark"><StateMark is="look" /> not published yet</small>
              <small v-else-if="row.unpublished" class="gorse mark"><StateMark is="look" /> changes not published</small
              ><small v-if="row.shown" class="mark"><ShownState :shown="row.shown" /></small
            ></template>
            <template #channels="{ item: row }">{{ row.channels.join(" or ") }}</template>
            <template #labels="{ item: row }">{{ row.labels.join(", ") }}</template>
            <template #said_by="{ item: row }"
              ><RouterLink v-if="row.said_by.length === 1" :to="{ name: 'workflow', params: { workflow: row.said_by[0]?.id ?? 0 } }">{{
                row.said_by[0]?.name
              }}</RouterLink
              ><template v-else-if="row.said_by.length">{{ row.said_by.length }} workflows</template
              ><span v-else class="soft">nothing yet</span></template
            >
            <template #sent="{ item: row }">{{ row.figures.sent }}</template>
            <template v-for="figure in FIGURES" #[figure]="{ item: row }" :key="figure"
              ><template v-if="base(row, figure)"
                >{{ row.figures[figure] }} <small class="soft">{{ share(row.figures[figure], base(row, figure)) }}</small></template
              ><span v-else class="soft">–</span></template
            >
          </DataTable>
          <p class="soft small">
            Shares from 20 sent on; of those with a link ({{ sum.link }}), of those that can be answered ({{ sum.open }}), of all ({{
              sum.sent
            }}). Messages are counted by their name.
          </p>
        </div>
        <MessageLook v-if="looked" :message="looked" />
      </div>
      <EmptyState v-else-if="data?.length">No message is like that.</EmptyState>
      <EmptyState v-else-if="data"
        >Nothing is in the library yet. What several workflows say is written here once, and changed in one place: write it here, or keep
        the message of a line: it stands below its words.</EmptyState
      >
    </ReadState>
    <WrittenOnce />
    <ReplaceAsk v-if="asking === 'replace'" :labels="labels" @close="asking = ''" />
    <NewMessageAsk v-if="asking === 'new'" @close="asking = ''" />
  </div>
</template>

<style scoped>
.ledger {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 28px;
}
.mark {
  display: block;
}
.page :deep([type="search"]) {
  min-width: 13.5em;
}
@media (min-width: 901px) {
  .ledger :deep(.looked > *) {
    background: var(--mist);
  }
  .ledger :deep(.looked > :first-child) {
    box-shadow: -3px 0 0 var(--sea);
  }
}
@media (max-width: 900px) {
  .ledger {
    display: block;
  }
}
</style>
