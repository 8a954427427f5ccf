<script setup lang="ts">
/** Bringing people in from a spreadsheet: the file, its columns, how they agreed, then progress and what was not taken. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

type Target = Schemas["ImportSettings"]["mapping"][string];
const TARGETS: [Target, string][] = [
  ["full_name", "Full name"],
  ["first_name", "First name"],
  ["last_name", "Last name"],
  ["email", "Email"],
  ["mobile", "Mobile"],
  ["zone", "Time zone"],
];

const account = useAccount();
const cache = useQueryClient();
const { pending, fault, act } = usePending();
const imported = ref<Schemas["ImportOut"]>();
const settings = reactive<Schemas["ImportSettings"]>({ mapping: {}, duplicates: "fill", tags: [], consent_channels: ["email", "text"], consent_evidence: "" });
const tag = ref("");
const preview = ref<Schemas["PreviewRow"][]>([]);

async function read(files: FileList | null | undefined) {
  const file = files?.[0];
  if (!file) return;
  await act(async () => {
    const form = new FormData();
    form.append("file", file);
    imported.value = await ok(
      api.POST("/api/accounts/{account}/imports", {
        params: { path: { account: account.value } },
        body: form as unknown as { file: string },
        bodySerializer: (body) => body as unknown as FormData,
      }),
    );
    settings.mapping = imported.value.mapping as Record<string, Target>;
  });
}
function match(column: number, target: string) {
  const mapping = { ...settings.mapping };
  if (target) mapping[String(column)] = target as Target;
  else delete mapping[String(column)];
  settings.mapping = mapping;
}
watch(
  () => [imported.value?.id, settings.mapping],
  async () => {
    const id = imported.value?.id;
    if (!id || imported.value?.state !== "read") return;
    preview.value = await ok(
      api.POST("/api/accounts/{account}/imports/{import_id}/preview", { params: { path: { account: account.value, import_id: id } }, body: settings }),
    );
  },
);
async function start() {
  const id = imported.value?.id;
  if (!id) return;
  settings.tags = tag.value.trim() ? [tag.value.trim()] : [];
  await act(async () => {
    imported.value = await ok(
      api.POST("/api/accounts/{account}/imports/{import_id}/start", { params: { path: { account: account.value, import_id: id } }, body: settings }),
    );
  });
}
async function stop() {
  const id = imported.value?.id;
  if (!id) return;
  await act(async () => {
    imported.value = await ok(api.POST("/api/accounts/{account}/imports/{import_id}/stop", { params: { path: { account: account.value, import_id: id } } }));
  });
}
const started = computed(() => !!imported.value && imported.value.state !== "read");
const { data: running } = useQuery({
  queryKey: ["import", account, () => imported.value?.id],
  queryFn: async () => {
    const path = { account: account.value, import_id: imported.value?.id ?? 0 };
    const now = await ok(api.GET("/api/accounts/{account}/imports/{import_id}", { params: { path } }));
    imported.value = now;
    const faults = now.failed ? await ok(api.GET("/api/accounts/{account}/imports/{import_id}/faults", { params: { path } })) : [];
    if (now.state !== "running") cache.invalidateQueries({ queryKey: ["contacts"] });
    return { faults };
  },
  enabled: started,
  refetchInterval: () => (imported.value?.state === "running" ? 700 : false),
});
const fields = computed(() => TARGETS.map(([field]) => field).filter((field) => preview.value.some((row) => row.fields[field])));
</script>

<template>
  <div class="page">
    <h1>Bring in a spreadsheet</h1>
    <p class="lead">A CSV file with a heading row. Phone numbers and emails are put in order; a row that cannot be taken is listed with its reason, and holds nobody else up.</p>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>

    <label v-if="!imported" class="drop" @dragover.prevent @drop.prevent="read($event.dataTransfer?.files)">
      <span class="serif">Choose a CSV file, or drop it here</span>
      <input type="file" accept=".csv,.txt,text/csv" :disabled="pending" @change="read(($event.target as HTMLInputElement).files)" />
    </label>

    <template v-else-if="!started">
      <h2>{{ imported.file_name }} <small class="soft">{{ many(imported.row_count, "row") }}</small></h2>
      <table class="match">
        <thead><tr><th>Column</th><th>In the first rows</th><th>Is the contact’s</th></tr></thead>
        <tbody>
          <tr v-for="(column, index) in imported.columns" :key="index">
            <td class="serif">{{ column }}</td>
            <td class="soft">{{ imported.sample.map((row) => row[index]).filter(Boolean).join(", ") }}</td>
            <td>
              <select :aria-label="`What ${column} is`" :value="settings.mapping[String(index)] ?? ''" @change="match(index, ($event.target as HTMLSelectElement).value)">
                <option value="">left out</option>
                <option v-for="[field, words] in TARGETS" :key="field" :value="field">{{ words }}</option>
              </select>
            </td>
          </tr>
        </tbody>
      </table>
      <h2>As they would come in</h2>
      <table class="match">
        <thead><tr><th>Row</th><th v-for="field in fields" :key="field">{{ TARGETS.find(([one]) => one === field)?.[1] }}</th><th /></tr></thead>
        <tbody>
          <tr v-for="row in preview" :key="row.row">
            <td class="soft">{{ row.row }}</td>
            <td v-for="field in fields" :key="field">{{ row.fields[field] }}</td>
            <td class="rust">{{ row.fault ? `▲ ${row.fault}` : "" }}</td>
          </tr>
        </tbody>
      </table>
      <form class="how" @submit.prevent="start">
        <label>
          <span>Somebody who is here already (same email or mobile)</span>
          <select v-model="settings.duplicates">
            <option value="fill">keeps what is there, gaps are filled</option>
            <option value="overwrite">is overwritten by the file</option>
            <option value="skip">is skipped</option>
          </select>
        </label>
        <label><span>Tag all of them (workflows that start on it start)</span><input v-model="tag" maxlength="80" placeholder="for instance: autumn list" /></label>
        <fieldset>
          <legend>They agreed to hear from the account by</legend>
          <label class="tick"><input v-model="settings.consent_channels" type="checkbox" value="email" /> email</label>
          <label class="tick"><input v-model="settings.consent_channels" type="checkbox" value="text" /> text</label>
        </fieldset>
        <label class="wide"><span>How and when they agreed: kept as evidence with each of them</span><input v-model="settings.consent_evidence" maxlength="500" placeholder="for instance: sign-up sheet at the open day, 4 October" /></label>
        <div class="actions wide">
          <button :disabled="pending">Bring in {{ many(imported.row_count, "row") }}</button>
          <button type="button" class="link" @click="imported = undefined">Another file</button>
        </div>
      </form>
    </template>

    <template v-else>
      <h2>{{ imported.file_name }}</h2>
      <progress :value="imported.rows_done" :max="imported.row_count" aria-label="Rows done" />
      <p class="lead" role="status">
        <template v-if="imported.state === 'running'">{{ imported.rows_done.toLocaleString("en-GB") }} of {{ many(imported.row_count, "row") }} done.</template>
        <strong v-else-if="imported.state === 'done'" class="kelp">✓ All {{ many(imported.row_count, "row") }} done.</strong>
        <strong v-else class="gorse">Stopped after {{ many(imported.rows_done, "row") }}; what came in stays.</strong>
      </p>
      <p>
        <strong>{{ imported.added.toLocaleString("en-GB") }}</strong> added · <strong>{{ imported.changed.toLocaleString("en-GB") }}</strong> changed ·
        <strong>{{ imported.skipped.toLocaleString("en-GB") }}</strong> here already · <strong :class="{ rust: imported.failed }">{{ imported.failed.toLocaleString("en-GB") }}</strong> not taken
      </p>
      <div class="actions">
        <button v-if="imported.state === 'running'" class="plain" @click="stop">Stop</button>
        <RouterLink v-else class="button" :to="`/${account}/people${tag ? `?tag=${encodeURIComponent(tag.trim())}` : ''}`">See them</RouterLink>
        <a v-if="imported.failed" class="button plain" :href="`/api/accounts/${account}/imports/${imported.id}/faults.csv`">Download the rows to correct</a>
      </div>
      <table v-if="running?.faults.length" class="match">
        <thead><tr><th>Row</th><th>Why it was not taken</th><th>What it says</th></tr></thead>
        <tbody>
          <tr v-for="row in running.faults" :key="row.row"><td class="soft">{{ row.row }}</td><td class="rust">{{ row.reason }}</td><td class="soft">{{ row.cells.join(" | ") }}</td></tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.drop { display: block; border: 1px dashed var(--soft); padding: 40px; text-align: center; }
.drop span { font-size: 18px; color: var(--ink); margin-bottom: 14px; }
.match { margin: 8px 0 22px; }
.how { display: grid; grid-template-columns: 1fr 1fr; gap: 14px 28px; border-top: 1px solid var(--ink); padding-top: 14px; }
.how select, .how input:not([type="checkbox"]) { width: 100%; }
.wide { grid-column: 1 / -1; }
.tick { margin-right: 18px; }
progress { width: 100%; accent-color: var(--sea); }
@media (max-width: 640px) { .how { grid-template-columns: 1fr; } }
</style>
