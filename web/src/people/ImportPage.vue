<script setup lang="ts">
/** Files of people: one is read, its columns matched, looked at, brought in with its consent stated; what was not taken
 * comes back corrected; the whole can be stopped, go on, be taken back. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref, shallowRef, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { useFieldKinds } from "@/queries/useFieldKinds";
import Ask from "@/ui/Ask.vue";
import { watchDebounced } from "@vueuse/core";
import { usePending } from "@/ui/usePending";
import { cut, many } from "@/ui/words";
import PeopleTabs from "./PeopleTabs.vue";
import ReadState from "@/ui/ReadState.vue";

type Import = Schemas["ImportOut"];
const OWN: [string, string][] = [
  ["full_name", "Full name"], ["first_name", "First name"], ["last_name", "Last name"], ["email", "Email"], ["mobile", "Mobile"],
  ["further_email", "Further email"], ["further_mobile", "Further number"], ["post", "Postal address"], ["zone", "Time zone"], ["social", "Social handle"], ["responsible", "Responsible, by name or email"],
  ["tags", "Tags, by comma"], ["lists", "Lists, by comma"], ["note", "Note"], ["no_email", "No emails, where it says yes"], ["no_text", "No texts, where it says yes"],
];
const account = useAccount();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value }));
const { data: details, ...detailsRead } = useAccountDetails();
const may = computed(() => details.value?.rights.includes("import") ?? false);
const { pending, act } = usePending();
const { data: fields, ...fieldsRead } = useQuery({ queryKey: ["fields", account], queryFn: () => ok(api.GET("/api/accounts/{account}/fields", { params: { path: path.value } })) });
const { data: earlier, ...earlierRead } = useQuery({
  queryKey: ["imports", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/imports", { params: { path: path.value } })),
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === "running" || one.state === "taking_back") ? 700 : false),
});

// ---- reading
const shown = ref<Import>();
const settings = reactive<Schemas["ImportSettings"]>({ mapping: {}, rules: {}, duplicates: "fill", tags: [], lists: [], consent_channels: [], consent_purposes: ["marketing", "service"], consent_evidence: "", consent_wording: "" });
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
const still = shallowRef(asked.value);
watchDebounced(asked, (next) => (still.value = next), { debounce: 150 });
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
  cache.invalidateQueries();
}

// ---- the work
async function handle(one: Import, did: "stop" | "go-on" | "take-back") {
  await act(() => ok(api.POST("/api/accounts/{account}/imports/{import_id}/do/{act}", { params: { path: { ...path.value, import_id: one.id, act: did } } })));
  cache.invalidateQueries({ queryKey: ["imports"] });
}
const running = computed(() => earlier.value?.find((one) => one.id === shown.value?.id) ?? (shown.value?.state === "read" ? undefined : shown.value));
const { data: faults } = useQuery({
  queryKey: ["import-faults", account, () => running.value?.id, () => running.value?.failed],
  queryFn: () => ok(api.GET("/api/accounts/{account}/imports/{import_id}/faults", { params: { path: { ...path.value, import_id: running.value?.id ?? 0 } } })),
  enabled: () => !!running.value?.failed,
});
watch(() => running.value?.state, (now, before) => {
  if (before === "running" && now !== "running") cache.invalidateQueries();
});
const STATES: Record<string, string> = { running: "coming in", done: "✓ came in", stopped: "stopped", taking_back: "being taken back", taken_back: "taken back", read: "read" };
const takingBack = ref<Import>();
const link = (one: Import) => `/api/accounts/${account.value}/imports/${one.id}/faults.csv`;
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
      <p><button class="link" @click="pasting = !pasting">Or paste rows</button></p>
      <form v-if="pasting" @submit.prevent="paste">
        <textarea v-model="pasted" rows="6" aria-label="Rows, with or without headings" placeholder="Name&#9;Email&#9;Mobile&#10;Ana Reyes&#9;ana@example.com&#9;07700 900123" />
        <p class="actions"><button :disabled="pending || !pasted.trim()">Read the rows</button></p>
      </form>

      <template v-if="running">
        <h2>{{ running.file_name }}</h2>
        <progress :value="running.rows_done" :max="running.row_count" aria-label="Rows dealt with" />
        <p class="told" role="status">{{ running.rows_done.toLocaleString("en-GB") }} of {{ many(running.row_count, "row") }}, {{ STATES[running.state] }}: <span class="kelp">{{ running.added.toLocaleString("en-GB") }} new</span>, {{ running.changed.toLocaleString("en-GB") }} changed, {{ running.skipped.toLocaleString("en-GB") }} left as they were, <span :class="{ rust: running.failed }">{{ running.failed.toLocaleString("en-GB") }} not taken</span><template v-if="running.state === 'taken_back'">; {{ many(running.kept, "person", "people") }} stayed, to whom something had happened since</template>.</p>
        <p class="actions">
          <button v-if="running.state === 'running'" class="plain" @click="handle(running, 'stop')">Stop here</button>
          <button v-if="running.state === 'stopped'" @click="handle(running, 'go-on')">Go on</button>
          <a v-if="running.failed" class="button plain" :href="link(running)">The {{ many(running.failed, "row") }} to correct, as CSV</a>
          <RouterLink v-if="running.state !== 'running'" :to="`/${account}/people`">See the people</RouterLink>
        </p>
        <template v-if="faults?.rows.length">
          <h3>Not taken</h3>
          <p class="small soft">Correct them in the file and bring it in again: its columns, tags and consent are taken as they were here.</p>
          <ul class="reasons"><li v-for="[reason, count] in (faults.reasons as [string, number][])" :key="reason"><strong>{{ count.toLocaleString("en-GB") }}</strong> {{ reason }}</li></ul>
          <table><thead><tr><th>Row</th><th>As it was</th><th>Why</th></tr></thead><tbody><tr v-for="one in faults.rows" :key="one.row"><td class="soft">{{ one.row }}</td><td>{{ one.cells.filter(Boolean).join(" · ") }}</td><td class="rust">▲ {{ one.reason }}</td></tr></tbody></table>
          <p v-if="running.failed > 20" class="small soft">The first 20 of {{ running.failed.toLocaleString("en-GB") }}; the file has all of them.</p>
        </template>
      </template>

      <template v-if="earlier?.length">
        <h2>Earlier files</h2>
        <table>
          <thead><tr><th>File</th><th>When</th><th>By</th><th class="num">New</th><th class="num">Changed</th><th class="num">Not taken</th><th /><th /></tr></thead>
          <tbody>
            <tr v-for="one in earlier" :key="one.id">
              <td class="serif"><button class="link" @click="shown = one">{{ one.file_name }}</button></td>
              <td>{{ one.at }}</td><td>{{ one.by }}</td><td class="num">{{ one.added }}</td><td class="num">{{ one.changed }}</td><td class="num">{{ one.failed }}</td>
              <td :class="one.state === 'done' ? 'kelp' : one.state === 'taken_back' ? 'soft' : 'gorse'">{{ STATES[one.state] }}</td>
              <td class="small"><button v-if="one.state === 'done' || one.state === 'stopped'" class="link" @click="takingBack = one">Take back…</button></td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>

    <template v-else>
      <p class="soft">{{ many(shown.row_count, "row") }} · {{ readAs }}</p>
      <table class="match">
        <thead><tr><th>Column</th><th>In the first rows</th><th>Is the contact’s</th><th>Read as</th></tr></thead>
        <tbody>
          <tr v-for="(column, index) in shown.columns" :key="index">
            <td class="serif">{{ column }}</td>
            <td class="soft sample">{{ shown.sample.map((row) => row[index]).filter(Boolean).join(", ") }}</td>
            <td>
              <select :aria-label="`What ${column} is`" :value="settings.mapping[String(index)] ?? ''" @change="match(index, ($event.target as HTMLSelectElement).value)">
                <option value="">left out</option>
                <optgroup label="The contact’s own"><option v-for="[target, words] in OWN" :key="target" :value="target">{{ words }}</option></optgroup>
                <optgroup v-if="fields?.length" label="Fields of the account"><option v-for="one in fields" :key="one.id" :value="`field:${one.name}`">{{ one.name }} ({{ kindOf(one.kind)?.label }})</option></optgroup>
                <optgroup label="A new field"><option v-for="kind in madeOf(shown.kinds[index])" :key="kind.name" :value="`new:${kind.name}:${column}`">“{{ column }}”, {{ kind.label }}</option></optgroup>
              </select>
            </td>
            <td>
              <select v-if="looked?.choices[String(index)]" :aria-label="`How ${column} is read`" :value="looked.rules[String(index)]" @change="settings.rules = { ...settings.rules, [String(index)]: ($event.target as HTMLSelectElement).value as never }">
                <option v-for="(words, rule) in looked.choices[String(index)]" :key="rule" :value="rule">{{ words }}</option>
              </select>
            </td>
          </tr>
        </tbody>
      </table>
      <h2>As they would come in</h2>
      <p v-if="wrong" class="fault" role="alert">{{ wrong.message }}</p>
      <p v-if="looked" class="told" role="status">Of the first {{ many(looked.looked_at, "row") }}: <span class="kelp">{{ looked.new }} new</span>, <span class="gorse">{{ looked.changed }} changed</span>, {{ looked.same }} left as they are, <span :class="{ rust: looked.faults }">{{ looked.faults }} not taken</span>.</p>
      <div class="wide">
        <table v-if="looked?.rows.length">
          <thead><tr><th>Row</th><th /><th v-for="name in columns" :key="name">{{ name.replaceAll("_", " ") }}</th><th /></tr></thead>
          <tbody><tr v-for="row in looked.rows" :key="row.row"><td class="soft">{{ row.row }}</td><td :class="BECOMES[row.becomes]?.[0]">{{ BECOMES[row.becomes]?.[1] }}</td><td v-for="name in columns" :key="name">{{ row.fields[name] }}</td><td class="small" :class="row.becomes === 'fault' ? 'rust' : 'soft'">{{ row.words }}</td></tr></tbody>
        </table>
      </div>
      <form class="how" @submit.prevent="start">
        <fieldset>
          <legend>Who is here already, by email or number</legend>
          <label v-for="[mode, words] in ([['fill', 'fill what is empty'], ['overwrite', 'write over what is there'], ['skip', 'leave them as they are']] as const)" :key="mode" class="tick"><input v-model="settings.duplicates" type="radio" :value="mode" /> {{ words }}</label>
        </fieldset>
        <fieldset>
          <legend>What these people agreed to</legend>
          <label class="tick"><input v-model="settings.consent_channels" type="checkbox" value="email" /> to emails</label>
          <label class="tick"><input v-model="settings.consent_channels" type="checkbox" value="text" /> to texts</label>
          <template v-if="settings.consent_channels?.length">
            <label><span>How and when they said so</span><input v-model="settings.consent_evidence" maxlength="400" placeholder="Sign-up sheet at the summer fair, 12 July" /></label>
            <label><span>In answer to these words, if you have them</span><textarea v-model="settings.consent_wording" rows="2" maxlength="500" /></label>
          </template>
          <p v-else class="small soft">Nothing is stated: they are written to only where this account writes until people object.</p>
        </fieldset>
        <fieldset>
          <legend>All of them get</legend>
          <label><span>Tags</span><input v-model="tag" placeholder="summer fair" /></label>
          <label><span>Lists</span><input v-model="list" /></label>
        </fieldset>
        <div class="actions"><button :disabled="pending || !!wrong">Bring in {{ many(shown.row_count, "row") }}</button><button type="button" class="link" @click="shown = undefined">Another file</button></div>
      </form>
    </template>

    </ReadState>
    <Ask v-if="takingBack" v-slot="{ close }" :title="`Take “${takingBack.file_name}” back`" @close="takingBack = undefined">
      <p>{{ many(takingBack.added, "person", "people") }} it added would be gone, and {{ many(takingBack.changed, "person", "people") }} it changed would be as before. Whoever something has happened to since, stays.</p>
      <div class="actions"><button @click="handle(takingBack, 'take-back'); shown = takingBack; close()">Take it back</button><button class="link" @click="close">Not now</button></div>
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
.sample { max-width: 22rem; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.match select { max-width: 17rem; }
.wide { overflow-x: auto; }
.how { display: grid; grid-template-columns: 1fr 1.4fr 1fr; gap: 8px 34px; border-top: 1px solid var(--ink); margin-top: 18px; padding-top: 14px; }
.how .actions { grid-column: 1 / -1; margin-top: 0; }
.how label:not(.tick), .how label:not(.tick) input { width: 100%; }
.tick { display: flex; gap: 8px; align-items: baseline; }
.button.plain { font-weight: 400; }
@media (max-width: 760px) { .how { grid-template-columns: 1fr; } }
</style>
