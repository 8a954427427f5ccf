<script setup lang="ts">
/** The account's workflows with the figures people compare; a new one, or one from a file. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import StopAll from "./StopAll.vue";
import ReadState from "@/ui/ReadState.vue";

const account = useAccount();
const { data: details } = useAccountDetails();
const router = useRouter();
const { data, ...reading } = useQuery({
  queryKey: ["workflows", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows", { params: { path: { account: account.value } } })),
  meta: LIVE,
});
const { data: aside, ...asideRead } = useQuery({
  queryKey: ["aside", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/aside", { params: { path: { account: account.value } } })),
  meta: LIVE,
});
const waits = computed(() => Object.values(aside.value?.counts ?? {}).reduce((sum, count) => sum + count, 0));
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const asking = ref(false);
const name = ref("");
const { pending, act } = usePending();
async function write() {
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/workflows", { params: { path: { account: account.value } }, body: { name: name.value } }));
    router.push(`/${account.value}/workflows/${made.id}`);
  });
}
async function fromFile(files: FileList | null) {
  const file = files?.[0];
  if (!file) return;
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/workflows/from-file", { params: { path: { account: account.value } }, body: { text: await file.text() } }));
    router.push(`/${account.value}/workflows/${made.id}`);
  });
}

// The list

type Row = Schemas["WorkflowRow"];
const COLOURS: [Schemas["LookIn"]["colour"], string][] = [["", "no colour"], ["sea", "sea"], ["thrift", "thrift"], ["gorse", "gorse"], ["kelp", "kelp"], ["rust", "rust"], ["slate", "slate"]];
const COLUMNS: [string, string, (row: Row) => string | number][] = [
  ["name", "Workflow", (row) => row.name.toLowerCase()],
  ["state", "State", (row) => (row.version ? (row.open ? 0 : 1) : 2)],
  ["inside", "Inside", (row) => -row.inside],
  ["came", "Came in", (row) => -row.came],
  ["messages", "Sent, 30 days", (row) => -row.messages_30_days],
  ["replied", "Replied", (row) => -row.replied],
  ["checks", "Checks", (row) => -(row.errors * 1000 + row.warnings)],
  ["changed", "Last change", (row) => -Date.parse(row.changed_at)],
];
const NUMBERS = ["inside", "came", "messages", "replied"];
const by = ref("name");
const q = ref("");
const away = ref(false);
const rows = computed(() => {
  const value = COLUMNS.find(([key]) => key === by.value)?.[2] as (row: Row) => string | number;
  const words = q.value.toLowerCase();
  const found = data.value?.filter((row) => row.archived === away.value && `${row.name} ${row.description} ${row.summary}`.toLowerCase().includes(words));
  return found?.sort((a, b) => (value(a) < value(b) ? -1 : value(a) > value(b) ? 1 : 0));
});
const archived = computed(() => data.value?.filter((row) => row.archived).length ?? 0);
const queries = useQueryClient();
const path = (id: number) => ({ account: account.value, workflow_id: id });
async function change(what: () => Promise<unknown>) {
  await act(what);
  await queries.invalidateQueries({ queryKey: ["workflows", account.value] });
}
const copy = (row: Row) => change(() => ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/copy", { params: { path: path(row.id) } })));
const leaving = ref<Row>();  // to be put away, with people inside
const putAway = (row: Row, inside: "" | "go_on" | "leave" = "") => change(() => ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/archive/{way}", { params: { path: { ...path(row.id), way: row.archived ? "back" : "away" }, query: { inside } } })));
function archive(row: Row) {
  if (row.inside && !row.archived) leaving.value = row;
  else putAway(row);
}
const paint = (row: Row, colour: string) => change(() => ok(api.PUT("/api/accounts/{account}/workflows/{workflow_id}/colour", { params: { path: path(row.id) }, body: { colour: colour as Schemas["LookIn"]["colour"] } })));
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Workflows</h1>
      <input v-model="q" type="search" aria-label="Search the workflows" placeholder="search in what they say" size="24" />
      <span class="grow" />
      <StopAll />
      <RouterLink :to="`/${account}/workflows/uses`">Where things are used</RouterLink>
      <template v-if="may">
        <RouterLink :to="`/${account}/workflows/starters`">Begin from a script</RouterLink>
        <label class="button plain file">Bring in a file<input class="sr" type="file" accept=".yaml,.yml,.json" @change="fromFile(($event.target as HTMLInputElement).files)" /></label>
        <button @click="asking = true">Write a new one</button>
      </template>
    </div>
    <ReadState :of="[reading, asideRead]" what="The workflows">
    <p v-if="waits"><RouterLink class="gorse" :to="`/${account}/workflows/waits`">▲ {{ many(waits, "thing waits", "things wait") }} for somebody</RouterLink></p>
    <table v-if="rows?.length">
      <thead><tr><th v-for="[key, words] in COLUMNS" :key="key" :class="{ num: NUMBERS.includes(key) }" :aria-sort="by === key ? 'ascending' : 'none'"><button class="sort" :class="{ on: by === key }" @click="by = key">{{ words }}</button></th><th v-if="may"><span class="sr">What to do</span></th></tr></thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id">
          <td class="what" :class="row.colour && `c-${row.colour}`"><RouterLink class="serif name" :to="`/${account}/workflows/${row.id}`">{{ row.name }}</RouterLink><br /><small class="soft">{{ row.description || row.summary }}</small></td>
          <td>
            <span v-if="!row.version" class="soft">draft</span><span v-else-if="row.open" class="kelp">● runs</span><span v-else class="gorse">closed</span>
            <br /><small class="soft">{{ row.version ? `version ${row.version}` : "" }}{{ row.unpublished ? ", unpublished changes" : "" }}</small>
          </td>
          <td class="num">{{ row.inside }}</td><td class="num">{{ row.came }}</td><td class="num">{{ row.messages_30_days }}</td><td class="num">{{ row.replied }}</td>
          <td><span v-if="row.errors" class="rust">✕ {{ many(row.errors, "error") }}</span><span v-else-if="row.warnings" class="gorse">▲ {{ row.warnings }}</span><span v-else class="soft">none</span></td>
          <td class="soft">{{ row.local_changed }}</td>
          <td v-if="may" class="acts small">
            <button class="link" :aria-label="`Copy ${row.name}`" @click="copy(row)">Copy</button> <button class="link" :aria-label="`${row.archived ? 'Take out of the archive' : 'Archive'}: ${row.name}`" @click="archive(row)">{{ row.archived ? "Take out again" : "Archive" }}</button>
            <select :value="row.colour" :aria-label="`Colour of ${row.name}`" @change="paint(row, ($event.target as HTMLSelectElement).value)"><option v-for="[colour, words] in COLOURS" :key="colour" :value="colour">{{ words }}</option></select>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data?.length" class="empty">{{ away ? "Nothing is in the archive." : "No workflow says that." }}</p>
    <p v-else-if="data" class="empty">No workflow is written yet. Write the first one as you would on paper, for instance: text them, wait three days for an answer, ring those who say yes. Or begin from a script that is there.</p>
    <p v-if="archived || away" class="small"><button class="link" @click="away = !away">{{ away ? "Back to the workflows in use" : `In the archive: ${archived}` }}</button></p>
    </ReadState>
    <Ask v-if="leaving" v-slot="{ close }" :title="`Put “${leaving.name}” away`" @close="leaving = undefined">
      <p>{{ many(leaving.inside, "person is", "people are") }} inside. What becomes of them?</p>
      <p class="soft small">Who leaves takes along what has not gone out yet: held messages, calls, letters.</p>
      <div class="actions">
        <button :disabled="pending" @click="putAway(leaving, 'go_on').then(close)">They go on to the end</button>
        <button class="plain" :disabled="pending" @click="putAway(leaving, 'leave').then(close)">They leave now</button>
        <button class="link" @click="close">Not now</button>
      </div>
    </Ask>
    <Ask v-if="asking" v-slot="{ close }" title="A new workflow" @close="asking = false">
      <form @submit.prevent="write">
        <label><span>What is it called</span><input v-model.trim="name" required maxlength="120" autofocus placeholder="After the open day" size="36" /></label>
        <div class="actions"><button :disabled="pending">Write it</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
table { margin-top: 14px; }
.name { font-size: 17px; }
.what { max-width: 27rem; padding-left: 10px; border-left: 4px solid transparent; }
.c-sea { border-left-color: var(--sea); }
.c-thrift { border-left-color: var(--thrift); }
.c-gorse { border-left-color: var(--gorse); }
.c-kelp { border-left-color: var(--kelp); }
.c-rust { border-left-color: var(--rust); }
.c-slate { border-left-color: var(--soft); }
.sort { background: none; border: 0; padding: 0; color: var(--soft); font-size: 13px; }
.sort.on { color: var(--ink); }
.sort:hover { background: none; color: var(--sea); }
.acts { white-space: nowrap; }
.acts > * { margin-right: 10px; }
.acts select { font-size: 13px; padding: 0 2px; width: 6em; border-color: var(--rule); }
.file:focus-within { outline: 2px solid var(--sea); }
</style>
