<script setup lang="ts">
/** The account's workflows with the figures people compare; a new one, or one from a file. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import StopAll from "@/shared/StopAll.vue";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { useAsking } from "@/ui/useAsking";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import { tell } from "@/ui/told";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import { filesOf } from "@/ui/events";

const account = useAccount();
const router = useRouter();
const { data, ...reading } = useRead("/workflows", undefined, { live: true });
const { data: aside, ...asideRead } = useRead("/aside", undefined, { live: true });
const waits = computed(() => Object.values(aside.value?.counts ?? {}).reduce((sum, count) => sum + count, 0));
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const asking = useAsking("new", "enrol");
const name = ref("");
const { pending, act } = usePending();
async function write() {
  await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/workflows", { params: { path: { account: account.value } }, body: { name: name.value } }),
    );
    void router.push({ name: "workflow", params: { workflow: made.id } });
  });
}
async function fromFile(files: FileList | null) {
  const file = files?.[0];
  if (!file) return;
  await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/workflows/from-file", {
        params: { path: { account: account.value } },
        body: { text: await file.text() },
      }),
    );
    void router.push({ name: "workflow", params: { workflow: made.id } });
  });
}

// The list

type Row = Schemas["WorkflowRow"];
const COLUMNS: (Column & { by: (row: Row) => string | number })[] = [
  { key: "name", label: "Workflow", heads: true, by: (row) => row.name.toLowerCase() },
  { key: "state", label: "State", by: (row) => (row.version ? (row.open ? 0 : 1) : 2) },
  { key: "inside", label: "Inside", num: true, by: (row) => -row.inside },
  { key: "came", label: "Came in", num: true, by: (row) => -row.came },
  { key: "messages_30_days", label: "Sent, 30 days", num: true, by: (row) => -row.messages_30_days },
  { key: "replied", label: "Replied", num: true, by: (row) => -row.replied },
  { key: "checks", label: "Checks", by: (row) => -(row.errors * 1000 + row.warnings) },
  { key: "local_changed", label: "Last change", class: "soft", by: (row) => -Date.parse(row.changed_at) },
];
const columns = computed((): Column[] => [
  ...COLUMNS.map((one) => ({ ...one, sortable: true })),
  ...(may.value ? [{ key: "acts", label: "What to do", hidesLabel: true, class: "acts small" }] : []),
]);
const by = ref("name");
const q = ref("");
const away = ref(false);
const WHICH: [string, (row: Row) => boolean][] = [
  ["all of them", () => true],
  ["that run", (row) => !!row.version && row.open],
  ["closed to newcomers", (row) => !!row.version && !row.open],
  ["never published", (row) => !row.version],
  ["with people inside", (row) => row.inside > 0],
  ["with changes not published", (row) => !!row.version && row.unpublished],
  ["with something to mend", (row) => row.errors + row.warnings > 0],
];
const which = ref("all of them");
const rows = computed(() => {
  const value = COLUMNS.find((one) => one.key === by.value.replace("-", ""))?.by ?? ((row: Row) => row.name);
  const turned = by.value.startsWith("-") ? -1 : 1;
  const words = q.value.toLowerCase();
  const fits = WHICH.find(([words]) => words === which.value)?.[1] ?? (() => true);
  const found = data.value?.filter(
    (row) => row.archived === away.value && fits(row) && `${row.name} ${row.description} ${row.summary}`.toLowerCase().includes(words),
  );
  return found?.sort((a, b) => turned * (value(a) < value(b) ? -1 : value(a) > value(b) ? 1 : 0));
});
const archived = computed(() => data.value?.filter((row) => row.archived).length ?? 0);
const touched = useTouched();
const path = (id: number) => ({ account: account.value, workflow_id: id });
async function change(what: () => Promise<unknown>) {
  await act(what);
  await touched("/workflows");
}
const copy = (row: Row) =>
  change(() => ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/copy", { params: { path: path(row.id) } })));
const leaving = ref<Row>(); // to be put away, with people inside
const putAway = (row: Row, inside: "" | "go_on" | "leave" = "") =>
  change(() =>
    ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/archive/{way}", {
        params: { path: { ...path(row.id), way: row.archived ? "back" : "away" }, query: { inside } },
      }),
    ),
  );
function archive(row: Row) {
  if (row.inside && !row.archived) leaving.value = row;
  else
    void putAway(row).then(() =>
      row.archived
        ? tell(`“${row.name}” is in use again.`)
        : tell(`“${row.name}” is in the archive.`, () => putAway({ ...row, archived: true })),
    );
}
</script>

<template>
  <div class="page">
    <PageHead title="Workflows"
      ><template #beside
        ><BFormInput v-model="q" type="search" aria-label="Search the workflows" placeholder="search in what they say" />
        <BFormSelect v-model="which" aria-label="Which workflows"
          ><option v-for="[words] in WHICH" :key="words">{{ words }}</option></BFormSelect
        ></template
      >
      <StopAll />
      <RouterLink :to="{ name: 'uses' }">Where things are used</RouterLink>
      <template v-if="may">
        <RouterLink :to="{ name: 'starters' }">Begin from a script</RouterLink>
        <label class="btn btn-outline-primary file"
          >Bring in a file<input class="sr" type="file" accept=".yaml,.yml,.json" @change="fromFile(filesOf($event))"
        /></label>
        <BButton variant="primary" @click="asking = 'new'">Write a new one</BButton>
      </template></PageHead
    >
    <ReadState :of="[reading, asideRead]" what="The workflows">
      <p v-if="waits">
        <RouterLink class="gorse" :to="{ name: 'aside' }"
          ><StateMark is="look" /> {{ many(waits, "thing waits", "things wait") }} for somebody</RouterLink
        >
      </p>
      <DataTable v-if="rows?.length" v-model:sorted="by" caption="Workflows" :rows="rows" :columns="columns">
        <template #name="{ item: row }"
          ><div class="what edge" :class="row.colour && `c-${row.colour}`">
            <RouterLink class="serif name" :to="{ name: 'workflow', params: { workflow: row.id } }">{{ row.name }}</RouterLink><br /><small
              class="soft"
              >{{ row.description || row.summary }}</small
            >
          </div></template
        >
        <template #state="{ item: row }">
          <span v-if="!row.version" class="soft">draft</span><span v-else-if="row.open" class="kelp"><StateMark is="runs" /> runs</span
          ><span v-else class="gorse">closed</span> <br /><small class="soft"
            >{{ row.version ? `version ${row.version}` : "" }}{{ row.unpublished ? ", unpublished changes" : "" }}</small
          >
        </template>
        <template #checks="{ item: row }"
          ><span v-if="row.errors" class="rust"><StateMark is="failed" /> {{ many(row.errors, "error") }}</span
          ><span v-else-if="row.warnings" class="gorse"><StateMark is="look" /> {{ row.warnings }}</span
          ><span v-else class="soft">none</span></template
        >
        <template #acts="{ item: row }"
          ><BButton variant="link" :aria-label="`Copy ${row.name}`" @click="copy(row)">Copy</BButton>
          <BButton
            variant="link"
            :aria-label="`${row.archived ? 'Take out of the archive' : 'Archive'}: ${row.name}`"
            @click="archive(row)"
            >{{ row.archived ? "Take out again" : "Archive" }}</BButton
          ></template
        >
      </DataTable>
      <EmptyState v-else-if="data?.length">{{ away ? "Nothing is in the archive." : "No workflow is like that." }}</EmptyState>
      <EmptyState v-else-if="data"
        >No workflow is written yet. Write the first one as you would on paper, for instance: text them, wait three days for an answer, ring
        those who say yes. Or begin from a script that is there.</EmptyState
      >
      <p v-if="archived || away" class="small">
        <BButton variant="link" @click="away = !away">{{ away ? "Back to the workflows in use" : `In the archive: ${archived}` }}</BButton>
      </p>
    </ReadState>
    <Ask v-if="leaving" v-slot="{ close }" :title="`Put “${leaving.name}” away`" @close="leaving = undefined">
      <p>{{ many(leaving.inside, "person is", "people are") }} inside. What becomes of them?</p>
      <p class="soft small">Who leaves takes along what has not gone out yet: held messages, calls, letters.</p>
      <div class="actions">
        <BButton variant="primary" :disabled="pending" @click="putAway(leaving, 'go_on').then(close)">They go on to the end</BButton>
        <BButton variant="outline-primary" :disabled="pending" @click="putAway(leaving, 'leave').then(close)">They leave now</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </Ask>
    <EnrolAsk
      v-if="asking === 'enrol'"
      @close="asking = ''"
      @done="
        tell($event);
        asking = '';
        touched('/workflows');
      " />
    <Ask v-if="asking === 'new'" v-slot="{ close }" title="A new workflow" @close="asking = ''">
      <form @submit.prevent="write">
        <FormRow label="What is it called"
          ><BFormInput v-model.trim="name" required maxlength="120" autofocus placeholder="After the open day" class="wide"
        /></FormRow>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="pending">Write it</BButton
          ><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.name {
  font-size: 17px;
}
.what {
  max-width: 27rem;
  padding-left: 10px;
}
.file:focus-within {
  outline: 2px solid var(--sea);
}
</style>
