<script setup lang="ts">
/** The workflow page: the script in the middle, written, rehearsed or watched; the notes column beside it. */
import { useQuery } from "@tanstack/vue-query";
import { refDebounced } from "@/ui/refDebounced";
import { computed, nextTick, onMounted, onUnmounted, provide, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import { many } from "@/ui/words";
import HeadSentence from "./HeadSentence.vue";
import KeysAsk from "./KeysAsk.vue";
import NotesColumn from "./NotesColumn.vue";
import PublishAsk from "./PublishAsk.vue";
import RehearsePane from "./RehearsePane.vue";
import ScriptRun from "./ScriptRun.vue";
import WatchPane from "./WatchPane.vue";
import { moveStep, placeOf, removeStep, runOf, stepOf, walk, withNewIds, type Step } from "./document";
import { SCRIPT, type Look, type Script } from "./script";
import { useDraft } from "./useDraft";

const props = defineProps<{ stored: Schemas["WorkflowOut"]; catalogue: Schemas["Catalogue"]; details: Schemas["AccountDetails"] }>();
const account = useAccount();
const draft = useDraft(account.value, props.stored.id, props.stored.document, props.stored.revision, props.stored.local_changed);
draft.changes.value = props.stored.changes;
const { doc } = draft;

const version = ref(props.stored.version);
const isOpen = ref(props.stored.open);
const look = ref<Look>("write");
const selected = ref("");
const adding = ref<{ lane: string; index: number }>();
const answers = ref<Record<string, Schemas["AnswerIn"]>>({});
const watching = ref("");
const asking = ref<"" | "publish" | "keys">("");
const headOpen = ref(props.stored.version === null);
const startAt = ref(props.details.local_now.slice(0, 16));
const rehearsedContact = ref<number>();
const mayWrite = computed(() => props.details.rights.includes("workflows"));

// What the server reads from the draft, a moment after each change.
const settled = refDebounced(doc, 180);
const { data: reading } = useQuery({
  queryKey: ["reading", account, props.stored.id, settled, startAt],
  queryFn: () => ok(api.POST("/api/accounts/{account}/read", { params: { path: { account: account.value } }, body: { document: settled.value, start: startAt.value || null } })),
  placeholderData: (before) => before,
  gcTime: 10_000,
});
const rehearsal = useQuery({
  queryKey: ["rehearsal", account, props.stored.id, settled, startAt, rehearsedContact, answers],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/rehearse", {
        params: { path: { account: account.value } },
        body: {
          document: settled.value,
          contact_id: rehearsedContact.value ?? null,
          invented: { first_name: "Robin", last_name: "Vane", email: "robin@example.com", mobile: "+447700900001", tags: [] },
          start: startAt.value || null,
          answers: answers.value,
        },
      }),
    ),
  enabled: () => look.value === "rehearse",
  placeholderData: (before) => before,
  gcTime: 10_000,
});
const { data: watched } = useQuery({
  queryKey: ["watch", account, props.stored.id, watching],
  queryFn: () =>
    ok(
      api.GET("/api/accounts/{account}/workflows/{workflow_id}/watch", {
        params: { path: { account: account.value, workflow_id: props.stored.id }, query: { step: watching.value } },
      }),
    ),
  refetchInterval: () => (look.value === "watch" ? 2_000 : 10_000),
  placeholderData: (before) => before,
});
const { data: tags } = useQuery({
  queryKey: ["tags", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/tags", { params: { path: { account: account.value } } })),
});

function grouped<T extends { step: string }>(rows: T[] | undefined): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const row of rows ?? []) found.set(row.step, [...(found.get(row.step) ?? []), row]);
  return found;
}

function select(id: string, focus = false) {
  selected.value = id;
  if (focus) nextTick(() => document.getElementById(`line-${id}`)?.focus());
}
function insert(step: Step) {
  const where = adding.value;
  if (!where) return;
  draft.change((draftDoc) => runOf(draftDoc, where.lane).splice(where.index, 0, step));
  adding.value = undefined;
  select(step.id, true);
}
const script: Script = {
  account,
  doc,
  kinds: computed(() => new Map(props.catalogue.kinds.map((kind) => [kind.kind, kind]))),
  offered: computed(() => new Set(props.catalogue.offered)),
  look,
  mayWrite,
  selected,
  adding,
  readings: computed(() => new Map(reading.value?.reading.lines.map((line) => [line.step, line]))),
  checks: computed(() => grouped(reading.value?.reading.checks)),
  rehearsed: computed(() => grouped(rehearsal.data.value?.lines)),
  awaits: computed(() => rehearsal.data.value?.awaits ?? ""),
  answers,
  counts: computed(() => new Map(watched.value?.lines.map((line) => [line.step, line]))),
  watching,
  fields: computed(() => new Map(props.catalogue.merge_fields.map((field) => [field.path, field.label]))),
  tags: computed(() => tags.value?.map((tag) => tag.name) ?? []),
  accountName: computed(() => props.details.name.split(" ").slice(0, 2).join(" ")),
  memberName: computed(() => props.details.member || "The team"),
  change: draft.change,
  select,
  insert,
};
provide(SCRIPT, script);

watch(look, () => {
  adding.value = undefined;
  selected.value = "";
});

// Keys

const CLIP = "bluffside-lines";
const order = () => [...walk(doc.value.steps)].map((step) => step.id);
function go(by: number) {
  const ids = order();
  const at = ids.indexOf(selected.value);
  const next = ids[at < 0 ? (by > 0 ? 0 : ids.length - 1) : at + by];
  if (next) select(next, true);
}
function remove(id: string) {
  const ids = order();
  const at = ids.indexOf(id);
  draft.change((draftDoc) => removeStep(draftDoc, id));
  const left = order();
  select(left[Math.min(at, left.length - 1)] ?? "", true);
}
function addBelow(id: string) {
  const place = placeOf(doc.value, id);
  if (place) adding.value = { lane: place.lane?.id ?? "", index: place.index + 1 };
  else adding.value = { lane: "", index: doc.value.steps.length };
}
function paste(id: string) {
  const text = localStorage.getItem(CLIP);
  if (!text) return;
  const step = withNewIds(JSON.parse(text) as Step);
  const place = placeOf(doc.value, id);
  draft.change((draftDoc) => runOf(draftDoc, place?.lane?.id ?? "").splice(place ? place.index + 1 : draftDoc.steps.length, 0, step));
  select(step.id, true);
}
/** Keys while a line has the focus. */
function onScriptKey(event: KeyboardEvent) {
  const target = event.target as HTMLElement;
  if (target.closest("input, select, textarea, [contenteditable='true']")) return;
  const id = selected.value;
  const onLine = target.classList.contains("line");
  const control = event.ctrlKey || event.metaKey;
  const write = look.value === "write" && mayWrite.value;
  if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    const by = event.key === "ArrowDown" ? 1 : -1;
    if (event.altKey && write && id) {
      draft.change((draftDoc) => moveStep(draftDoc, id, by));
      select(id, true);
    } else go(by);
  } else if (event.key === "Escape") select("");
  else if (onLine && event.key === "ArrowRight") target.querySelector<HTMLElement>(".part.open")?.focus();
  else if (onLine && event.key === "Enter" && write) addBelow(id);
  else if (!write || !id) return;
  else if (event.key === "Delete") remove(id);
  else if (control && "cx".includes(event.key)) {
    const step = stepOf(doc.value, id);
    if (step) localStorage.setItem(CLIP, JSON.stringify(step));
    if (event.key === "x") remove(id);
  } else if (control && event.key === "v") paste(id);
  else if (!control && event.key === "n") document.querySelector<HTMLElement>("#notes [data-field] input, #notes [data-field] [contenteditable='true']")?.focus();
  else return;
  event.preventDefault();
}
/** Keys anywhere on the page. */
function onPageKey(event: KeyboardEvent) {
  const typing = (event.target as HTMLElement).closest("input, select, textarea, [contenteditable='true'], dialog");
  if (typing || look.value !== "write") return;
  const control = event.ctrlKey || event.metaKey;
  if (control && event.key.toLowerCase() === "z" && !event.shiftKey) draft.undo();
  else if (control && (event.key.toLowerCase() === "y" || (event.shiftKey && event.key.toLowerCase() === "z"))) draft.redo();
  else if (event.key === "?") asking.value = "keys";
  else return;
  event.preventDefault();
}
onMounted(() => window.addEventListener("keydown", onPageKey));
onUnmounted(() => window.removeEventListener("keydown", onPageKey));

const kept = computed(
  () =>
    ({
      kept: `kept ${draft.keptAt.value.split(", ")[1] ?? ""}`,
      changed: "keeping…",
      keeping: "keeping…",
      failed: `not kept: ${draft.fault.value}`,
      conflict: "not kept: somebody else changed this draft meanwhile",
    })[draft.state.value],
);
const { fault, act } = usePending();
async function ask() {
  await draft.save();
  asking.value = "publish";
}
async function published() {
  asking.value = "";
  const now = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: { account: account.value, workflow_id: props.stored.id } } }));
  version.value = now.version;
  isOpen.value = now.open;
  draft.changes.value = now.changes;
}
async function setOpen(open: boolean) {
  await act(async () => {
    const now = await ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/door/{state}", {
        params: { path: { account: account.value, workflow_id: props.stored.id, state: open ? "open" : "close" } },
      }),
    );
    isOpen.value = now.open;
  });
}
function rename(name: string) {
  if (name.trim()) draft.change((draftDoc) => (draftDoc.name = name.trim()), "name");
}
const LOOKS: [Look, string][] = [
  ["write", "Write"],
  ["rehearse", "Rehearse"],
  ["watch", "Watch"],
];
</script>

<template>
  <div class="desk">
    <section class="script" @click="select('')">
      <div class="title">
        <input class="serif" :value="doc.name" aria-label="Name of the workflow" maxlength="120" :disabled="!mayWrite" :size="Math.max(12, doc.name.length)" @click.stop @change="rename(($event.target as HTMLInputElement).value)" />
        <span class="soft state" role="status">
          {{ version ? `Version ${version} ${isOpen ? "runs" : "is closed to newcomers"}, ${many(watched?.inside ?? stored.inside, "person", "people")} inside` : "Not published yet" }}
          <template v-if="draft.changes.value.length"> · {{ many(draft.changes.value.length, "change") }} not yet published</template>
          · <span :class="{ rust: draft.state.value === 'failed' || draft.state.value === 'conflict' }">{{ kept }}</span>
        </span>
        <span class="grow" />
        <button v-if="mayWrite" :disabled="version !== null && !draft.changes.value.length && draft.state.value === 'kept'" @click.stop="ask">Publish…</button>
      </div>
      <p v-if="draft.state.value === 'conflict'" class="conflict" role="alert">
        Somebody else changed this draft. Nothing was overwritten; yours is still on this page.
        <button class="link" @click.stop="draft.settle('theirs')">Take theirs (yours stays in undo)</button> <button class="link" @click.stop="draft.settle('ours')">Put mine on top</button>
      </p>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <p class="sum serif">{{ reading?.reading.summary }} <button v-if="look === 'write'" class="link small" :aria-expanded="headOpen" @click.stop="headOpen = !headOpen">{{ headOpen ? "close" : "change this" }}</button></p>
      <HeadSentence v-if="headOpen && look === 'write'" @click.stop />
      <div class="looks" @click.stop>
        <div role="tablist" aria-label="Ways to look at it">
          <button v-for="[name, words] in LOOKS" :key="name" role="tab" :aria-selected="look === name" :class="{ on: look === name }" @click="look = name">{{ words }}</button>
        </div>
        <span class="soft small counts">
          <template v-if="look === 'write'">as if joining <MomentInPlace v-model="startAt" label="as if joining at" /> · </template>
          <template v-if="reading">{{ many(reading.reading.days, "day") }}, {{ many(reading.reading.touches, "touch", "touches") }}, {{ many(reading.reading.lines.length, "line") }}<template v-if="reading.reading.checks.length"> · <button class="link" @click="select('')">{{ many(reading.reading.checks.length, "check") }}</button></template></template>
        </span>
      </div>
      <div class="lines" role="group" aria-label="The script" @keydown="onScriptKey">
        <ScriptRun :steps="doc.steps" lane="" />
      </div>
      <p class="foot small soft" @click.stop>
        <a :href="`/api/accounts/${account}/workflows/${stored.id}/file.yaml`">Save as a file (YAML)</a> <a :href="`/api/accounts/${account}/workflows/${stored.id}/file.json`">(JSON)</a>
        <button v-if="mayWrite && version" class="link" @click="setOpen(!isOpen)">{{ isOpen ? "Close it to newcomers" : "Open it to newcomers" }}</button>
        <button class="link" @click="asking = 'keys'">Keys</button>
      </p>
    </section>
    <div class="side">
    <RehearsePane v-if="look === 'rehearse'" v-model:contact="rehearsedContact" v-model:start="startAt" :outcome="rehearsal.data.value" :fault="rehearsal.error.value?.message ?? ''" />
    <WatchPane v-else-if="look === 'watch'" :watch="watched" />
    <NotesColumn v-else :fields="catalogue.merge_fields" :all-checks="reading?.reading.checks ?? []" />
    </div>
    <PublishAsk v-if="asking === 'publish'" :workflow="stored.id" @close="asking = ''" @done="published" />
    <KeysAsk v-if="asking === 'keys'" @close="asking = ''" />
  </div>
</template>

<style scoped>
.desk { display: grid; grid-template-columns: minmax(0, 1fr) 330px; min-height: calc(100vh - 46px); }
.side { border-left: 1px solid var(--rule); background: var(--paper); min-width: 0; }
.side :deep(aside) { padding: 20px 24px; position: sticky; top: 0; max-height: 100vh; overflow-y: auto; }
.script { padding: 18px 26px 80px 28px; min-width: 0; }
.title { display: flex; align-items: baseline; gap: 12px; flex-wrap: wrap; }
.title input { font: 600 27px var(--serif); letter-spacing: -0.2px; border: 0; background: transparent; padding: 0; max-width: 100%; field-sizing: content; }
.title input:focus { background: var(--paper); }
.state { font-size: 14px; }
.sum { font-size: 17px; margin: 6px 0 12px; max-width: 46em; }
.looks { display: flex; align-items: baseline; gap: 22px; border-bottom: 1px solid var(--rule); margin-bottom: 6px; flex-wrap: wrap; }
.looks [role="tablist"] { display: flex; gap: 22px; }
.looks [role="tab"] { background: none; border: 0; padding: 4px 0 6px; color: var(--soft); font-weight: 400; font-size: 15px; border-radius: 0; }
.looks [role="tab"].on { color: var(--ink); font-weight: 600; box-shadow: 0 2px 0 var(--ink); }
.counts { margin-left: auto; }
.counts input { font-size: 13.5px; padding: 1px 4px; }
.foot { display: flex; gap: 14px; margin-top: 34px; border-top: 1px solid var(--rule); padding-top: 8px; flex-wrap: wrap; }
.conflict { border-left: 3px solid var(--rust); padding-left: 12px; }
@media (max-width: 900px) { .desk { grid-template-columns: 1fr; } .script { padding: 16px; } }
</style>
