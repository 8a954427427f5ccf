<script setup lang="ts">
/** Files of people: one is read, its columns matched, looked at, brought in with its consent stated; what was not taken
 * comes back corrected; the whole can be stopped, go on, be taken back. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import Ask from "@/ui/Ask.vue";
import { useSettled } from "@/ui/useSettled";
import { usePending } from "@/ui/usePending";
import { cut, many, number } from "@/ui/words";
import PeopleTabs from "./PeopleTabs.vue";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";

type Import = Schemas["ImportOut"];
const OWN: [string, string][] = [
  ["full_name", "Full name"], ["first_name", "First name"], ["last_name", "Last name"], ["email", "Email"], ["mobile", "Mobile"],
  ["further_email", "Further email"], ["further_mobile", "Further number"], ["post", "Postal address"], ["zone", "Time zone"], ["social", "Social handle"], ["responsible", "Responsible, by name or email"],
  ["tags", "Tags, by comma"], ["lists", "Lists, by comma"], ["note", "Note"], ["no_email", "No emails, where it says yes"], ["no_text", "No texts, where it says yes"],
];
const account = useAccount();
const touched = useTouched();
const path = computed(() => ({ account: account.value }));
const { data: details, ...detailsRead } = useAccountDetails();
const mayDo = useMay();
const may = computed(() => mayDo("import"));
const { pending, act } = usePending();
const { data: fields, ...fieldsRead } = useRead("/fields");
const { data: earlier, ...earlierRead } = useRead("/imports", undefined, { refetchInterval: (query) => (query.state.data?.some((one) => one.state === "running" || one.state === "taking_back") ? 700 : false) });

// ---- reading
const shown = ref<Import>();
const settings = reactive<Schemas["ImportSettings"]>({ mapping: {}, rules: {}, duplicates: "fill", shared_number: "leave", tags: [], lists: [], consent_channels: [], consent_purposes: ["marketing", "service"], consent_evidence: "", consent_wording: "" });
const tag = ref("");
const list = ref("");
const pasting = ref(false);
const pasted = ref("");
function take(imported: Import) {
  shown.value = imported;
  Object.assign(settings, imported.settings);
  tag.value = imported.settings.tags?.join(", ") ?? "";
  list.value = imported.settings.lists?.join(", ") ?? "";
  still.value = asked.value; // a file just read is looked at as it was matched, not as the one before
}
async function read(files: FileList | null | undefined) {
  const file = files?.[0];
  if (!file) return;
  const body = new FormData();
  body.append("file", file);
  await act(async () => take(await ok(api.POST("/api/accounts/{account}/imports", { params: { path: path.value }, body: body as unknown as { file: string }, bodySerializer: (one) => one as unknown as FormData }))));
}
async function paste() {
  const done = await act(async () => take(await ok(api.POST("/api/accounts/{account}/imports/pasted", { params: { path: path.value }, body: { text: pasted.value } }))));
  if (done) pasting.value = false;
}
const { kinds, kindOf } = useFieldKinds();
/** What a column can become as a field of its own, the likeliest first; a field of choices names them beforehand. */
const madeOf = (guessed?: string) => kinds.value.filter((one) => !one.own_choices).sort((a, b) => Number(b.name === guessed) - Number(a.name === guessed));
const readAs = computed(() => Object.entries(shown.value?.found ?? {}).map(([what, words]) => (what === "kind" ? words : `${what}: ${words}`)).join(" · "));

// ---- matching
const asked = computed<Schemas["ImportSettings"]>(() => ({ ...settings, tags: cut(tag.value), lists: cut(list.value) }));
const still = useSettled(asked, 150);
function match(column: number, target: string) {
  const mapping = { ...settings.mapping };
  const rules = { ...settings.rules };
  delete rules[String(column)];
  if (target) mapping[String(column)] = target;
  else delete mapping[String(column)];
  Object.assign(settings, { mapping, rules });
}
const { data: looked, error: wrong } = useQuery({
  queryKey: ["import-look", account, () => shown.value?.id, still],
  queryFn: () => ok(api.POST("/api/accounts/{account}/imports/{import_id}/look", { params: { path: { ...path.value, import_id: shown.value?.id ?? 0 } }, body: still.value })),
  enabled: () => shown.value?.state === "read",
  placeholderData: (before, query) => (query?.queryKey[2] === shown.value?.id ? before : undefined),
  retry: false,
});
const BECOMES: Record<string, [string, string]> = { new: ["kelp", "new"], changed: ["gorse", "changed"], same: ["soft", "left as is"], fault: ["rust", "▲ not taken"] };
const columns = computed(() => [...new Set((looked.value?.rows ?? []).flatMap((row) => Object.keys(row.fields)))]);
async function start() {
  await act(async () => {
    shown.value = await ok(api.POST("/api/accounts/{account}/imports/{import_id}/start", { params: { path: { ...path.value, import_id: shown.value?.id ?? 0 } }, body: asked.value }));
  });
  touched("everything");
}

// ---- the work
async function handle(one: Import, did: "stop" | "go-on" | "take-back") {
  await act(() => ok(api.POST("/api/accounts/{account}/imports/{import_id}/do/{act}", { params: { path: { ...path.value, import_id: one.id, act: did } } })));
  touched("/imports");
}
const running = computed(() => earlier.value?.find((one) => one.id === shown.value?.id) ?? (shown.value?.state === "read" ? undefined : shown.value));
const { data: faults } = useRead("/imports/{import_id}/faults", () => ({ path: { ...path.value, import_id: running.value?.id ?? 0 } }), { enabled: () => !!(running.value?.failed || running.value?.partly) });
watch(() => running.value?.state, (now, before) => {
  if (before === "running" && now !== "running") touched("everything");
});
const STATES: Record<string, string> = { running: "coming in", done: "✓ came in", stopped: "stopped", taking_back: "being taken back", taken_back: "taken back", read: "read" };
const takingBack = ref<Import>();
const link = (one: Import) => `/api/accounts/${account.value}/imports/${one.id}/faults.csv`;
const ROWS_NOT_TAKEN_COLUMNS: Column[] = [
  { key: "row", label: "Row", class: "soft" },
  { key: "as_it_was", label: "As it was" },
  { key: "why", label: "Why", class: "rust" },
];
const EARLIER_FILES_COLUMNS: Column[] = [
  { key: "file", label: "File", heads: true, class: "serif" },
  { key: "when", label: "When" },
  { key: "by", label: "By" },
  { key: "new", label: "New", num: true },
  { key: "changed", label: "Changed", num: true },
  { key: "not_taken", label: "Not taken", num: true },
  { key: "state", label: "State", hidesLabel: true },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small" },
];
const columnsOfFile = computed(() => shown.value?.columns.map((name, index) => ({ name, index })) ?? []);
const MATCH_COLUMNS: Column[] = [
  { key: "column", label: "Column", heads: true, class: "serif" },
  { key: "sample", label: "In the first rows", class: "soft sample" },
  { key: "is", label: "Is the contact’s" },
  { key: "read_as", label: "Read as" },
];
const lookedRows = computed(() => looked.value?.rows.map((row) => ({ ...row.fields, row: row.row, becomes: row.becomes, words: row.words })) ?? []);
const lookedColumns = computed((): Column[] => [
  { key: "row", label: "Row", class: "soft" },
  { key: "becomes", label: "Becomes", hidesLabel: true },
  ...columns.value.map((name) => ({ key: name, label: name.replaceAll("_", " ") })),
  { key: "words", label: "Why", hidesLabel: true, class: "small" },
]);
const toCorrect = computed(() => (running.value?.failed ?? 0) + (running.value?.partly ?? 0));
/** Rows above the headings are left out once somebody says where those stand. */
const headingsAt = ref<number>();
async function beginAt() {
  const id = shown.value?.id;
  const row = Number(headingsAt.value);
  if (!id || !row) return;
  if (await act(async () => take(await ok(api.POST("/api/accounts/{account}/imports/{import_id}/headings", { params: { path: { ...path.value, import_id: id } }, body: { row } }))))) headingsAt.value = undefined;
}
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <h1>{{ shown?.state === "read" ? shown.file_name : "Bring in a file" }}</h1>

    <p v-if="details && !may" class="empty">Managers and consultants bring files in here. You can add people one by one, or by <RouterLink :to="`/${account}/people/quick`">quick entry</RouterLink>.</p>
    <ReadState v-else :of="[detailsRead, fieldsRead, earlierRead]" what="The files brought in">
    <template v-if="!shown || shown.state !== 'read'">
      <p class="lead">CSV, a workbook (XLSX), vCards, or rows pasted. Phone numbers and emails are put in order; a row that cannot be taken is listed with its reason, and holds nobody else up.</p>
      <label class="drop" @dragover.prevent @drop.prevent="read($event.dataTransfer?.files)">
        <span class="serif">Choose a file, or drop it here</span>
        <input type="file" accept=".csv,.tsv,.txt,.xlsx,.vcf,text/csv,text/vcard" :disabled="pending" @change="read(($event.target as HTMLInputElement).files)" />
      </label>
      <p><BButton variant="link" @click="pasting = !pasting">Or paste rows</BButton></p>
      <form v-if="pasting" @submit.prevent="paste">
        <BFormTextarea v-model="pasted" rows="6" aria-label="Rows, with or without headings" placeholder="Name&#9;Email&#9;Mobile&#10;Ana Reyes&#9;ana@example.com&#9;07700 900123" />
        <p class="actions"><BButton variant="primary" type="submit" :disabled="pending || !pasted.trim()">Read the rows</BButton></p>
      </form>

      <template v-if="running">
        <h2>{{ running.file_name }}</h2>
        <progress :value="running.rows_done" :max="running.row_count" aria-label="Rows dealt with" />
        <p class="told" role="status">{{ number(running.rows_done) }} of {{ many(running.row_count, "row") }}, {{ STATES[running.state] }}: <span class="kelp">{{ number(running.added) }} new</span>, {{ number(running.changed) }} changed, {{ number(running.skipped) }} left as they were, <span :class="{ rust: running.failed }">{{ number(running.failed) }} not taken</span><span v-if="running.partly" class="gorse">, {{ number(running.partly) }} without some cell</span><template v-if="running.state === 'taken_back'">; {{ many(running.kept, "person", "people") }} stayed, to whom something had happened since</template>.</p>
        <p class="actions">
          <BButton v-if="running.state === 'running'" variant="outline-primary" @click="handle(running, 'stop')">Stop here</BButton>
          <BButton v-if="running.state === 'stopped'" variant="primary" @click="handle(running, 'go-on')">Go on</BButton>
          <BLink v-if="toCorrect" class="btn btn-outline-primary" :href="link(running)">The {{ many(toCorrect, "row") }} to correct, as CSV</BLink>
          <RouterLink v-if="running.state !== 'running'" :to="`/${account}/people`">See the people</RouterLink>
        </p>
        <template v-if="faults?.rows.length">
          <h3>{{ running.partly ? (running.failed ? "Not taken, or not wholly" : "Not taken wholly") : "Not taken" }}</h3>
          <p class="small soft">Correct them in the file and bring it in again: its columns, tags and consent are taken as they were here.</p>
          <ul class="reasons"><li v-for="[reason, count] in (faults.reasons as [string, number][])" :key="reason"><strong>{{ number(count) }}</strong> {{ reason }}</li></ul>
          <DataTable caption="Rows not taken" :rows="faults.rows" :columns="ROWS_NOT_TAKEN_COLUMNS">
            <template #row="{ item: one }">{{ one.row }}</template>
            <template #as_it_was="{ item: one }">{{ one.cells.filter(Boolean).join(" · ") }}</template>
            <template #why="{ item: one }"><span v-if="one.taken" class="gorse">◷ came in, but for: {{ one.reason }}</span><template v-else>▲ {{ one.reason }}</template></template>
          </DataTable>
          <p v-if="toCorrect > 20" class="small soft">The first 20 of {{ number(toCorrect) }}; the file has all of them.</p>
        </template>
      </template>

      <template v-if="earlier?.length">
        <h2>Earlier files</h2>
        <DataTable caption="Earlier files" :rows="earlier" :columns="EARLIER_FILES_COLUMNS">
          <template #file="{ item: one }"><BButton variant="link" @click="shown = one">{{ one.file_name }}</BButton></template>
          <template #when="{ item: one }">{{ one.at }}</template>
          <template #by="{ item: one }">{{ one.by }}</template>
          <template #new="{ item: one }">{{ one.added }}</template>
          <template #changed="{ item: one }">{{ one.changed }}</template>
          <template #not_taken="{ item: one }">{{ one.failed }}</template>
          <template #state="{ item: one }"><span :class="one.state === 'done' ? 'kelp' : one.state === 'taken_back' ? 'soft' : 'gorse'">{{ STATES[one.state] }}</span></template>
          <template #acts="{ item: one }"><BButton v-if="one.state === 'done' || one.state === 'stopped'" variant="link" @click="takingBack = one">Take back…</BButton></template>
        </DataTable>
      </template>
    </template>

    <template v-else>
      <p class="soft">{{ many(shown.row_count, "row") }} · {{ readAs }}</p>
      <form class="row small begins" @submit.prevent="beginAt">
        <FormRow label="The headings stand further down? In row"><BFormInput v-model="headingsAt" type="number" :min="shown.first_row" :max="shown.first_row + shown.row_count" class="short" /></FormRow>
        <BButton variant="outline-primary" type="submit" :disabled="pending || !headingsAt">They begin there</BButton>
      </form>
      <DataTable class="match" caption="What each column is" :rows="columnsOfFile" :columns="MATCH_COLUMNS">
        <template #column="{ item: column }">{{ column.name }}</template>
        <template #sample="{ item: column }">{{ shown.sample.map((row) => row[column.index]).filter(Boolean).join(", ") }}</template>
        <template #is="{ item: column }"><BFormSelect :aria-label="`What ${column.name} is`" :model-value="settings.mapping[String(column.index)] ?? ''" @update:model-value="match(column.index, String($event))">
                <option value="">left out</option>
                <optgroup label="The contact’s own"><option v-for="[target, words] in OWN" :key="target" :value="target">{{ words }}</option></optgroup>
                <optgroup v-if="fields?.length" label="Fields of the account"><option v-for="one in fields" :key="one.id" :value="`field:${one.name}`">{{ one.name }} ({{ kindOf(one.kind)?.label }})</option></optgroup>
                <optgroup label="A new field"><option v-for="kind in madeOf(shown.kinds[column.index])" :key="kind.name" :value="`new:${kind.name}:${column.name}`">“{{ column.name }}”, {{ kind.label }}</option></optgroup>
              </BFormSelect></template>
        <template #read_as="{ item: column }"><BFormSelect v-if="looked?.choices[String(column.index)]" :aria-label="`How ${column.name} is read`" :model-value="looked.rules[String(column.index)]" @update:model-value="settings.rules = { ...settings.rules, [String(column.index)]: String($event) as never }">
                <option v-for="(words, rule) in looked.choices[String(column.index)]" :key="rule" :value="rule">{{ words }}</option>
              </BFormSelect></template>
      </DataTable>
      <h2>As they would come in</h2>
      <p v-if="wrong" class="fault" role="alert">{{ wrong.message }}</p>
      <p v-if="looked" class="told" role="status">Of the first {{ many(looked.looked_at, "row") }}: <span class="kelp">{{ looked.new }} new</span>, <span class="gorse">{{ looked.changed }} changed</span>, {{ looked.same }} left as they are, <span :class="{ rust: looked.faults }">{{ looked.faults }} not taken</span>.</p>
      <div class="wide">
        <DataTable v-if="looked?.rows.length" caption="What the first rows become" :rows="lookedRows" :columns="lookedColumns">
          <template #becomes="{ item }"><span :class="BECOMES[item.becomes]?.[0]">{{ BECOMES[item.becomes]?.[1] }}</span></template>
          <template #words="{ item }"><span :class="item.becomes === 'fault' ? 'rust' : 'soft'">{{ item.words }}</span></template>
        </DataTable>
      </div>
      <form class="how" @submit.prevent="start">
        <fieldset>
          <legend>Who is here already, by email or number</legend>
          <BFormRadio v-for="[mode, words] in ([['fill', 'fill what is empty'], ['overwrite', 'write over what is there'], ['skip', 'leave them as they are']] as const)" :key="mode" v-model="settings.duplicates" class="tick" :value="mode" name="settings-duplicates">{{ words }}</BFormRadio>
          <FormRow label="Who has the number of somebody here, but a name and an email of their own" class="wide"><BFormSelect v-model="settings.shared_number">
            <option value="leave">is left for me to decide: the row is told of, and does not come in</option>
            <option value="apart">is somebody else: comes in, without the number</option>
            <option value="same">is the same person</option>
          </BFormSelect></FormRow>
        </fieldset>
        <fieldset>
          <legend>What these people agreed to</legend>
          <BFormCheckbox v-model="settings.consent_channels" class="tick" value="email">to emails</BFormCheckbox>
          <BFormCheckbox v-model="settings.consent_channels" class="tick" value="text">to texts</BFormCheckbox>
          <template v-if="settings.consent_channels?.length">
            <FormRow label="How and when they said so"><BFormInput v-model="settings.consent_evidence" maxlength="400" placeholder="Sign-up sheet at the summer fair, 12 July" /></FormRow>
            <FormRow label="In answer to these words, if you have them"><BFormTextarea v-model="settings.consent_wording" rows="2" maxlength="500" /></FormRow>
          </template>
          <p v-else class="small soft">Nothing is stated: they are written to only where this account writes until people object.</p>
        </fieldset>
        <fieldset>
          <legend>All of them get</legend>
          <FormRow label="Tags"><BFormInput v-model="tag" placeholder="summer fair" /></FormRow>
          <FormRow label="Lists"><BFormInput v-model="list" /></FormRow>
        </fieldset>
        <div class="actions"><BButton variant="primary" type="submit" :disabled="pending || !!wrong">Bring in {{ many(shown.row_count, "row") }}</BButton><BButton variant="link" @click="shown = undefined">Another file</BButton></div>
      </form>
    </template>

    </ReadState>
    <Ask v-if="takingBack" v-slot="{ close }" :title="`Take “${takingBack.file_name}” back`" @close="takingBack = undefined">
      <p>{{ many(takingBack.added, "person", "people") }} it added would be gone, and {{ many(takingBack.changed, "person", "people") }} it changed would be as before. Whoever something has happened to since, stays.</p>
      <div class="actions"><BButton variant="primary" @click="handle(takingBack, 'take-back'); shown = takingBack; close()">Take it back</BButton><BButton variant="link" @click="close">Not now</BButton></div>
    </Ask>
  </div>
</template>

<style scoped>
.drop { display: block; border: 1px dashed var(--soft); padding: 22px; margin: 10px 0; max-width: 46rem; cursor: pointer; }
.drop .serif { font-size: 17px; display: block; margin-bottom: 8px; color: var(--ink); }
h2 { margin: 22px 0 6px; }
h3 { margin: 16px 0 2px; }
progress { width: 100%; max-width: 46rem; height: 10px; accent-color: var(--sea); }
.told { font-size: 16px; }
.reasons { columns: 2; padding: 0; margin: 6px 0 12px; list-style: none; max-width: 60rem; }
.reasons strong { display: inline-block; min-width: 4.2em; text-align: right; margin-right: 8px; }
:deep(.sample) { max-width: 22rem; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
:deep(.match) select { max-width: 17rem; }
.wide { overflow-x: auto; }
.how { display: grid; grid-template-columns: 1fr 1.4fr 1fr; gap: 8px 34px; border-top: 1px solid var(--ink); margin-top: 18px; padding-top: 14px; }
.how .actions { grid-column: 1 / -1; margin-top: 0; }
.how label:not(.tick), .how label:not(.tick) input { width: 100%; }
.tick { display: flex; gap: 8px; align-items: baseline; }
.button.plain { font-weight: 400; }
@media (max-width: 760px) { .how { grid-template-columns: 1fr; } }
.begins { align-items: end; margin: 0 0 8px; }
.begins .short { width: 6rem; }
</style>
