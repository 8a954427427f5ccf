<script setup lang="ts">
/** The accounts of the practice in one table, a new one, putting away and bringing back; who may enter one only is taken there. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watchEffect } from "vue";
import { useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import { useSession } from "@/queries/session";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import { many, number } from "@/ui/words";
import HowLong from "./HowLong.vue";
import LeaveAsk from "./LeaveAsk.vue";
import NewAccountAsk from "./NewAccountAsk.vue";

type Row = Partial<Schemas["PracticeAccount"]> & Schemas["AccountOut"];
const { session } = useSession();
const router = useRouter();
const cache = useQueryClient();
const consultant = computed(() => session.value?.consultant ?? false);
watchEffect(() => {
  const only = session.value?.accounts.length === 1 ? session.value.accounts[0] : undefined;
  if (only && !consultant.value) void router.replace({ name: "today", params: { account: only.slug } });
});
const leavingSlug = ref("");
const moves = (state: string | undefined) => state === "being deleted";
const { data: practice } = useQuery({
  queryKey: ["practice"],
  queryFn: () => ok(api.GET("/api/practice/")),
  enabled: consultant,
  // What the worker makes, or takes away, moves by itself.
  refetchInterval: ({ state }) =>
    state.data?.accounts.some((one) => one.file?.state === "running" || moves(one.state)) || leavingSlug.value ? 1_000 : false,
});
const away = ref(false);
const leaving = computed(() => practice.value?.accounts.find((one) => one.slug === leavingSlug.value));
const deleted = computed(() => practice.value?.deleted ?? []);
const rows = computed<Row[]>(() =>
  (session.value?.accounts ?? [])
    .map((one) => ({ ...one, ...practice.value?.accounts.find((more) => more.slug === one.slug) }))
    .filter((one) => (one.state === "put away") === away.value),
);
const putAway = computed(() => practice.value?.accounts.filter((one) => one.state === "put away").length ?? 0);
const COLUMNS = computed<Column[]>(() => [
  { key: "account", label: "Account", heads: true, class: "serif" },
  { key: "zone", label: "Where" },
  ...(consultant.value
    ? [
        { key: "state", label: "State" },
        { key: "contacts", label: "People", num: true },
        { key: "workflows", label: "Workflows", num: true },
        { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
      ]
    : [{ key: "role", label: "You are its" }]),
]);
const MARKS = { "tried out": "waits", live: "done", stopped: "broken", "put away": "look", "being deleted": "broken" } as const;
const asking = useAsking("new");
const { act } = usePending();
const again = () => Promise.all([cache.invalidateQueries({ queryKey: ["practice"] }), cache.invalidateQueries({ queryKey: ["session"] })]);
async function made(slug: string) {
  asking.value = "";
  await again();
  void router.push({ name: "set-up", params: { account: slug } });
}
function putAwayOne(one: Row) {
  sure({
    title: `Put ${one.name} away?`,
    words: "Its sending stops at once. What comes in is kept, and it can be brought back.",
    act: "Put it away",
    yes: async () => {
      const path = { slug: one.slug };
      const done = await act(() => ok(api.POST("/api/practice/accounts/{slug}/put-away", { params: { path } })));
      if (done) tell(`${one.name} is put away.`);
      await again();
      return done;
    },
  });
}
async function bringBack(one: Row) {
  const path = { slug: one.slug };
  if (await act(() => ok(api.POST("/api/practice/accounts/{slug}/bring-back", { params: { path } }))))
    tell(`${one.name} is back. Its sending stays stopped until you lift that, and decide about what fell due.`);
  await again();
  if (!putAway.value) away.value = false;
}
</script>

<template>
  <div class="page">
    <PageHead title="Accounts" :about="practice?.name ?? ''">
      <BButton v-if="putAway || deleted.length || away" variant="link" @click="away = !away">{{
        away ? "those in use" : putAway ? `${putAway} put away` : "put away and deleted"
      }}</BButton>
      <RouterLink v-if="consultant" :to="{ name: 'practice-people' }">Who works here</RouterLink>
      <BButton v-if="consultant" variant="primary" @click="asking = 'new'">New account</BButton>
    </PageHead>
    <p class="lead">Each client business has its own people, workflows and messages.</p>
    <DataTable v-if="rows.length" caption="Accounts" :rows="rows" :columns="COLUMNS">
      <template #account="{ item }"
        ><RouterLink class="name" :to="{ name: 'workflows', params: { account: item.slug } }">{{ item.name }}</RouterLink
        ><small v-if="item.trade" class="soft trade">{{ item.trade }}</small></template
      >
      <template #zone="{ item }">{{ item.place ?? item.zone }}</template>
      <template #role="{ item }">{{ item.role === "team" ? "team member" : item.role }}</template>
      <template #state="{ item }"
        ><template v-if="item.state"
          ><StateMark :is="MARKS[item.state]" /> {{ item.state === "tried out" ? "not live yet" : item.state }}
          <small v-if="item.since" class="soft">since {{ item.since }}</small></template
        ></template
      >
      <template #contacts="{ item }">{{ number(item.contacts ?? 0) }}</template>
      <template #workflows="{ item }">{{ number(item.workflows ?? 0) }}</template>
      <template #acts="{ item }"
        ><template v-if="item.state === 'put away'"
          ><BButton variant="link" @click="bringBack(item)">Bring back</BButton>
          <BButton variant="link" class="rust" @click="leavingSlug = item.slug">Delete for good…</BButton></template
        ><template v-else
          ><RouterLink :to="{ name: 'set-up', params: { account: item.slug } }">Set-up</RouterLink>
          <BButton variant="link" @click="leavingSlug = item.slug">Take out…</BButton>
          <BButton variant="link" @click="putAwayOne(item)">Put away…</BButton></template
        ></template
      >
    </DataTable>
    <EmptyState v-else-if="away">Nothing is put away.</EmptyState>
    <EmptyState v-else-if="session && consultant"
      >No account yet. A client business is set up from three answers: its name, where it is, and what it does.</EmptyState
    >
    <ul v-if="away && deleted.length" class="deleted" aria-label="Deleted accounts">
      <li v-for="one in deleted" :key="one.name + one.at">
        <StateMark :is="one.gone ? 'done' : 'runs'" /> {{ one.name }} {{ one.gone ? "was deleted" : "is being deleted" }} by {{ one.by }},
        {{ one.at }}: {{ many(one.rows, "row") }} {{ one.gone ? "gone" : "so far" }}.
      </li>
    </ul>
    <HowLong v-if="consultant" />
    <LeaveAsk v-if="leaving" :of="leaving" @changed="again" @close="leavingSlug = ''" />
    <NewAccountAsk v-if="asking === 'new'" :accounts="session?.accounts ?? []" @close="asking = ''" @made="made" />
  </div>
</template>

<style scoped>
.name {
  font-size: 17px;
}
.deleted {
  list-style: none;
  padding: 0;
  margin: 14px 0;
}
.trade {
  margin-left: 10px;
  font-family: var(--sans);
}
</style>
