<script setup lang="ts">
/** The workflow page: the script in the middle, written, rehearsed or watched; the notes column beside it. */
import { useQuery } from "@tanstack/vue-query";
import { refDebounced, until } from "@vueuse/core";
import { useSettled } from "@/ui/useSettled";
import { useRoute, useRouter } from "vue-router";
import { computed, nextTick, onMounted, provide, ref, shallowReactive, shallowRef, watch, type Ref } from "vue";

import { useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import { many, moment, several } from "@/ui/words";
import ColourPick from "./ColourPick.vue";
import FindAsk from "./FindAsk.vue";
import HeadSentence from "./HeadSentence.vue";
import KeysAsk from "./KeysAsk.vue";
import NextAsk from "./NextAsk.vue";
import NotesColumn from "./NotesColumn.vue";
import PasteAsk from "./PasteAsk.vue";
import PublishAsk from "./PublishAsk.vue";
import RehearsePane from "./RehearsePane.vue";
import ScriptRun from "./ScriptRun.vue";
import WatchPane from "./WatchPane.vue";
import { laneOf, mend, numberOf, walk } from "./document";
import { SCRIPT, type Behind, type Look, type Script } from "./script";
import { useDraft } from "./useDraft";
import { useKeys } from "./useKeys";
import { useRehearsal } from "./useRehearsal";
import { useLines } from "./useLines";
import { plain, same, wordsOf, type Book, type Values } from "./written";
import { tell } from "@/ui/told";

const props = defineProps<{ stored: Schemas["WorkflowOut"]; catalogue: Schemas["CatalogueOut"]; details: Schemas["AccountDetails"] }>();
const account = useAccount();
const route = useRoute();
const router = useRouter();
const draft = useDraft(account.value, props.stored.id, plain(props.stored.document), props.stored.revision, props.stored.local_changed);
draft.changes.value = props.stored.changes;
const { doc } = draft;
const written = props.catalogue.written_with;
const kinds = new Map(written.kinds.map((kind) => [kind.kind, kind]));
const lines = useLines(account, props.stored.id, doc, draft.change, (step) => {
  const kind = kinds.get(step.kind);
  return kind ? wordsOf(kind, step as unknown as Values, book.value) : step.kind;
});
const { selected, chosen, adding, folded, select } = lines;

const version = ref(props.stored.version);
const isOpen = ref(props.stored.open);
/** How it is looked at is in the address: a link leads to the people of a workflow as well as to its words. */
const look = computed<Look>({
  get: () => (route.query.look === "rehearse" || route.query.look === "watch" ? route.query.look : "write"),
  set: (next) => void router.replace({ query: { ...route.query, look: next === "write" ? undefined : next } }),
});
const watching = ref<Behind>();
const only = ref<"" | "inside" | "stuck" | "paused" | "left">("");
const headOpen = ref(props.stored.version === null);
const asking = ref<"" | "publish" | "keys" | "find" | "next">("");
const nextFrom = ref("");
const startAt = ref(props.details.local_now.slice(0, 16));
const mayWrite = computed(() => props.details.rights.includes("workflows"));

// What the server reads from the draft, a moment after each change.
const settled = useSettled(doc, 180);
/** Documents are told apart in keys of queries by a number: making a key of 200 lines would take longer than drawing them. */
const nth = computed(() => numberOf(settled.value));
const { data: reading } = useQuery({
  queryKey: ["reading", account, props.stored.id, nth, startAt],
  queryFn: () => ok(api.POST("/api/accounts/{account}/read", { params: { path: { account: account.value } }, body: { document: settled.value, start: startAt.value || null, workflow_id: props.stored.id } })),
  placeholderData: (before) => before,
  select: (read) => read, // what is as in the reading before stays the same object
  shallow: true,
  gcTime: 10_000,
});
const rehearsal = useRehearsal(account, props.stored.id, doc, settled, startAt, () => look.value === "rehearse");
const rehearsePane = ref<InstanceType<typeof RehearsePane>>();
// While somebody writes, only how many are inside is shown, and now and then is enough.
const { data: watched, ...watchedRead } = useRead("/workflows/{workflow_id}/watch", () => ({ path: { workflow_id: props.stored.id }, query: { step: watching.value?.step ?? "", number: watching.value?.number ?? "here", only: only.value } }), { live: () => look.value === "watch", refetchInterval: () => (look.value === "watch" ? false : 10_000), placeholderData: (before) => before });
const touched = useTouched();
const { data: names, isPending: namesPending } = useRead("/names");
// A name that is used for the first time is offered from then on; asked for again when a draft is kept, and not too often.
let named = Date.now();
watch(draft.state, (state) => {
  if (state !== "kept" || Date.now() - named < 15_000) return;
  named = Date.now();
  touched("/names");
});

/** Rows by line, kept in one reactive map in which only what changed is set: so only those lines are drawn anew. */
function byLine<T>(rows: () => Map<string, T>): Ref<Map<string, T>> {
  const kept = shallowReactive(new Map<string, T>());
  watch(
    rows,
    (next) => {
      for (const id of [...kept.keys()]) if (!next.has(id)) kept.delete(id);
      for (const [id, row] of next) if (!kept.has(id) || !same(kept.get(id), row)) kept.set(id, row);
    },
    { immediate: true },
  );
  return shallowRef(kept);
}
function grouped<T extends { step: string }>(rows: T[] | undefined): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const row of rows ?? []) found.set(row.step, [...(found.get(row.step) ?? []), row]);
  return found;
}

function toNotes(field = "", tries = 12, from = document.activeElement) {
  requestAnimationFrame(() => {
    if (document.activeElement !== from && document.activeElement !== document.body) return; // somebody went elsewhere meanwhile
    const there = noted.value === selected.value && (!document.querySelector("#notes [data-field]") || document.querySelector("#notes [contenteditable]"));
    if (tries && !there) return toNotes(field, tries - 1, from); // the notes follow a moment later
    const place = (field && document.querySelector(`#notes [data-field="${field}"]`)) || document.querySelector("#notes [data-field]") || document.querySelector("#notes");
    const name = place?.querySelector<HTMLInputElement>(".name input");
    // A message that has its name already is written on in its words.
    const target = (name && !name.value ? name : undefined) ?? place?.querySelector<HTMLElement>("[contenteditable='true']") ?? place?.querySelector<HTMLElement>("input, button, summary");
    target?.focus();
  });
}
/** What the notes are about: the selection, once it rests, so that going from line to line costs nothing. */
const noted = refDebounced(selected, 70);
function carryOut(check: Schemas["Check"]) {
  const offered = check.mend && plain(check.mend);
  if (offered) draft.change((draftDoc) => mend(draftDoc, check.step, offered));
}
const tests = new Map(written.tests.map((test) => [test.kind, test]));
const triggers = new Map(written.triggers.map((trigger) => [trigger.kind, trigger]));
const ownFields = computed(() => names.value?.own_fields ?? {});
const lineWords = computed(() => new Map(reading.value?.reading.lines.map((line) => [line.step, line.sentence.replace(/\.$/, "")])));
/** One and the same throughout, so that a new reading draws only the lines anew that use what changed. */
const book = shallowRef<Book>({ tests, triggers, fieldName: (field) => ownFields.value[field] ?? field, lineName: (step) => lineWords.value.get(step) ?? "a line that is gone" });
const script: Script = {
  account,
  doc,
  kinds: computed(() => kinds),
  book,
  events: computed(() => written.events),
  names: computed(() => names.value?.names ?? {}),
  namesRead: () => until(namesPending).toBe(false, { timeout: 5000 }).then(() => undefined),
  ownFields,
  tasks: computed(() => [...walk(doc.value.steps)].filter((step) => kinds.get(step.kind)?.who === "member").map((step) => ({ id: step.id, words: lineWords.value.get(step.id) ?? step.kind }))),
  look,
  mayWrite,
  selected,
  noted,
  chosen,
  folded,
  adding,
  readings: byLine(() => new Map(reading.value?.reading.lines.map((line) => [line.step, line]))),
  checks: byLine(() => grouped(reading.value?.reading.checks)),
  rehearsed: computed(() => grouped(rehearsal.shown.value)),
  awaits: rehearsal.awaits,
  answers: rehearsal.answers,
  offers: computed(() => rehearsal.outcome.value?.offers ?? []),
  answer: rehearsal.answer,
  takeBack: rehearsal.takeBack,
  steppedTo: computed(() => (rehearsal.upTo.value === undefined ? "" : (rehearsal.shown.value.at(-1)?.step ?? ""))),
  uncovered: computed(() => new Set(rehearsal.scenarios.value.length ? rehearsal.verdicts.value?.not_reached : [])),
  counts: computed(() => new Map(watched.value?.lines.map((line) => [line.step, line]))),
  watching,
  fields: computed(() => new Map(props.catalogue.merge_fields.map((field) => [field.path, field.label]))),
  accountName: computed(() => props.details.name.split(" ").slice(0, 2).join(" ")),
  memberName: computed(() => props.details.member || "The team"),
  change: draft.change,
  select,
  insert: lines.insert,
  unwritten: lines.unwritten,
  addBelow: lines.addBelow,
  mend: carryOut,
  toNotes,
  fold: lines.fold,
  moveLane: lines.moveLane,
};
provide(SCRIPT, script);

watch(look, () => {
  adding.value = undefined;
  selected.value = "";
});
watch(script.steppedTo, (id) => id && document.getElementById(`line-${id}`)?.scrollIntoView({ block: "nearest" }));

const paste = () => act(lines.paste);
/** Mends by the first check of the line that offers it; with nothing selected, of the script. */
function mendFirst() {
  const all = reading.value?.reading.checks ?? [];
  const step = laneOf(doc.value, selected.value)?.step.id ?? selected.value;
  const check = (step && all.find((one) => one.step === step && one.mend)) || all.find((one) => one.mend);
  if (check) carryOut(check);
}
function nextCheck() {
  const ids = lines.order();
  const with_ = new Set(reading.value?.reading.checks.map((check) => check.step));
  const at = ids.indexOf(selected.value);
  const next = [...ids.slice(at + 1), ...ids.slice(0, at + 1)].find((id) => with_.has(id));
  if (next) select(next, true);
}
const { onScriptKey } = useKeys({
  look, mayWrite, headOpen, draft, lines, rehearsal, toNotes, paste, mendFirst, nextCheck,
  publish: () => ask(),
  ask: (what) => (asking.value = what),
  keep: () => rehearsePane.value?.keep(),
});
onMounted(() => {
  const { line, take } = Object.fromEntries(new URLSearchParams(window.location.search));
  if (line) select(line, true);
  if (take) goBack(Number(take));
  if (!doc.value.steps.length && mayWrite.value && !props.stored.version) lines.addBelow(); // what is begun is written at once
});

const kept = computed(
  () =>
    ({
      // The day, too, when it was not today.
      kept: `kept ${draft.keptAt.value.replace(`${moment(props.details.local_now).split(",")[0]}, `, "")}`,
      changed: "keeping…",
      keeping: "keeping…",
      failed: `not kept: ${draft.fault.value}`,
      conflict: "not kept: you and somebody else changed the same",
    })[draft.state.value],
);
const { act } = usePending();
async function ask() {
  await draft.save();
  asking.value = "publish";
}
async function published(said: string) {
  asking.value = "";
  tell(said);
  const now = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: { account: account.value, workflow_id: props.stored.id } } }));
  version.value = now.version;
  isOpen.value = now.open;
  draft.changes.value = now.changes;
}
/** Makes an earlier version the draft again, as one change that can be undone. */
async function goBack(number: number) {
  await act(async () => {
    const earlier = await ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}/versions/{number}", { params: { path: { account: account.value, workflow_id: props.stored.id, number } } }));
    draft.change((draftDoc) => Object.assign(draftDoc, earlier.document));
    tell(`The draft is version ${number} again. Ctrl Z takes that back.`);
    window.history.replaceState(window.history.state, "", window.location.pathname);
  });
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
function describe(description: string) {
  draft.change((draftDoc) => {
    draftDoc.description = description;
  }, "description");
}
function makeNext(step: string) {
  nextFrom.value = step;
  asking.value = "next";
}
function rename(name: string) {
  if (name.trim()) draft.change((draftDoc) => void (draftDoc.name = name.trim()), "name");
}
const LOOKS: [Look, string][] = [
  ["write", "Write"],
  ["rehearse", "Rehearse"],
  ["watch", "Watch"],
];
/** The arrows go from one way of looking to the next, as along any list of tabs. */
function onLookKey(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  const names = LOOKS.map(([name]) => name);
  const next = event.key === "Home" ? names[0] : event.key === "End" ? names.at(-1) : by && names[(names.indexOf(look.value) + by + names.length) % names.length];
  if (!next) return;
  event.preventDefault();
  event.stopPropagation();
  look.value = next;
  nextTick(() => document.getElementById(`look-${next}`)?.focus());
}
</script>

<template>
  <div class="desk" :class="{ watching: look === 'watch' }">
    <section class="script" @click="select('')">
      <div class="title">
        <input class="serif" :value="doc.name" aria-label="Name of the workflow" maxlength="120" :disabled="!mayWrite" :size="Math.max(12, doc.name.length)" @click.stop @change="rename(($event.target as HTMLInputElement).value)" />
        <span class="soft state" role="status">
          {{ version ? `Version ${version} ${isOpen ? "runs" : "is closed to newcomers"}, ${many(watched?.inside ?? stored.inside, "person", "people")} inside` : "Not published yet" }}
          <template v-if="draft.changes.value.length"> · {{ many(draft.changes.value.length, "change") }} not yet published</template>
          · <span :class="{ rust: draft.state.value === 'failed' || draft.state.value === 'conflict' }">{{ kept }}</span>
        </span>
        <span class="grow" />
        <BButton v-if="mayWrite" variant="primary" :disabled="version !== null && !draft.changes.value.length && draft.state.value === 'kept'" @click.stop="ask">Publish…</BButton>
      </div>
      <p v-if="draft.state.value === 'conflict'" class="conflict" role="alert">
        You and somebody else both changed {{ several(draft.clashes.value.map((one) => one.what)) }}. Nothing was overwritten, and what only one of you changed is kept. Whose shall stand? The other’s stays in undo.
        <span v-for="one in draft.clashes.value" :key="one.what + one.ours" class="sides"><span class="soft">Theirs:</span> {{ one.theirs }} <span class="soft">Mine:</span> {{ one.ours }}</span>
        <BButton variant="link" @click.stop="draft.settle('theirs')">Theirs</BButton> <BButton variant="link" @click.stop="draft.settle('ours')">Mine</BButton>
      </p>
      <p v-else-if="draft.notice.value" class="notice soft" role="status">{{ draft.notice.value }}</p>
      <p v-if="look !== 'write'" class="sum serif">{{ reading?.reading.summary }}</p>
      <template v-else>
        <input v-if="mayWrite || doc.description" class="description" :value="doc.description" aria-label="What it is for" placeholder="What is it for? One sentence for your colleagues" maxlength="2000" :disabled="!mayWrite" @click.stop @input="describe(($event.target as HTMLInputElement).value)" />
        <ColourPick v-if="mayWrite" :workflow="stored.id" :colour="stored.colour" @click.stop />
        <HeadSentence v-model:open="headOpen" :over="reading?.reading.over ?? ''" :house="reading?.house ?? []" @click.stop />
      </template>
      <div class="looks" @click.stop>
        <div role="tablist" aria-label="Ways to look at it">
          <BButton v-for="[name, words] in LOOKS" :id="`look-${name}`" :key="name" variant="link" role="tab" :aria-selected="look === name" aria-controls="script" :tabindex="look === name ? 0 : -1" :class="{ on: look === name }" @click="look = name" @keydown="onLookKey">{{ words }}</BButton>
        </div>
        <span class="soft small counts">
          <template v-if="look === 'write'">as if joining <MomentInPlace v-model="startAt" label="as if joining at" /> · </template>
          <template v-if="reading"><span :class="{ gorse: reading.longest_days && reading.reading.days > reading.longest_days }">{{ many(reading.reading.days, "day") }}<template v-if="reading.longest_days"> of {{ reading.longest_days }}</template></span>, <span :class="{ gorse: reading.most_touches && reading.reading.touches > reading.most_touches }">{{ many(reading.reading.touches, "touch", "touches") }}<template v-if="reading.most_touches"> of {{ reading.most_touches }}</template></span>, {{ many(reading.reading.lines.length, "line") }}<template v-if="reading.reading.checks.length"> · <BButton variant="link" @click="select('')">{{ many(reading.reading.checks.length, "check") }}</BButton></template></template>
          <template v-if="rehearsal.scenarios.value.length && rehearsal.verdicts.value"> · <BButton variant="link" :class="{ rust: rehearsal.failing.value.length }" @click="look = 'rehearse'">{{ rehearsal.failing.value.length ? `✕ ${rehearsal.failing.value.length} of ${many(rehearsal.scenarios.value.length, "scenario")} fails` : `✓ ${many(rehearsal.scenarios.value.length, "scenario holds", "scenarios hold")}` }}</BButton></template>
        </span>
      </div>
      <div id="script" class="lines" role="group" aria-label="The script" @keydown="onScriptKey">
        <ScriptRun :steps="doc.steps" lane="" />
      </div>
      <p class="foot small soft" @click.stop>
        <template v-if="look === 'write' && mayWrite">
          <BButton variant="link" :disabled="!draft.canUndo.value" @click="draft.undo()">Undo</BButton> <BButton variant="link" :disabled="!draft.canRedo.value" @click="draft.redo()">Redo</BButton>
          <template v-if="chosen.size"><BButton variant="link" @click="lines.copy(false)">Copy {{ many(chosen.size, "line") }}</BButton> <BButton variant="link" @click="lines.copy(true)">Cut</BButton> <BButton variant="link" @click="lines.move(-1)">Move up</BButton> <BButton variant="link" @click="lines.move(1)">Move down</BButton></template>
          <BButton variant="link" @click="paste">Paste</BButton> <BButton variant="link" @click="asking = 'find'">Find and replace</BButton>
        </template>
        <BButton variant="link" @click="asking = 'keys'">Keys</BButton>
        <span class="grow" />
        <RouterLink v-if="version" :to="`/${account}/workflows/${stored.id}/versions`">Versions</RouterLink>
        <a :href="`/api/accounts/${account}/workflows/${stored.id}/script.pdf`">On paper (PDF)</a>
        <a :href="`/api/accounts/${account}/workflows/${stored.id}/script.mmd`">Flowchart (Mermaid)</a>
        <span>Save as <a :href="`/api/accounts/${account}/workflows/${stored.id}/file.yaml`">YAML</a> or <a :href="`/api/accounts/${account}/workflows/${stored.id}/file.json`">JSON</a></span>
        <BButton v-if="mayWrite && version" variant="link" @click="setOpen(!isOpen)">{{ isOpen ? "Close it to newcomers" : "Open it to newcomers" }}</BButton>
      </p>
    </section>
    <div class="side">
    <RehearsePane v-if="look === 'rehearse'" ref="rehearsePane" v-model:start="startAt" :rehearsal="rehearsal" />
    <WatchPane v-else-if="look === 'watch'" v-model:only="only" :watch="watched" :reading="watchedRead" :workflow="stored.id" :name="doc.name" :published="version !== null" />
    <NotesColumn v-else :fields="catalogue.merge_fields" :all-checks="reading?.reading.checks ?? []" @find="asking = 'find'" @next="makeNext" />
    </div>
    <PublishAsk v-if="asking === 'publish'" :workflow="stored.id" @close="asking = ''" @done="published" />
    <KeysAsk v-if="asking === 'keys'" @close="asking = ''" />
    <FindAsk v-if="asking === 'find'" @close="asking = ''" />
    <NextAsk v-if="asking === 'next'" :step="nextFrom" @close="asking = ''" />
    <PasteAsk v-if="lines.pasting.value" :steps="lines.pasting.value.steps" :missing="lines.pasting.value.missing" @close="lines.pasting.value = undefined" @done="lines.put" />
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
.sides { display: block; font-family: var(--serif); }
.description { width: 100%; max-width: 46em; border-color: transparent; background: transparent; padding: 1px 0; color: var(--soft); }
.description:hover, .description:focus { border-bottom-color: var(--rule); }
.notice { margin: 4px 0; }
.sum { font-size: 17px; margin: 6px 0 12px; max-width: 46em; }
.looks { display: flex; align-items: baseline; gap: 22px; border-bottom: 1px solid var(--rule); margin-bottom: 6px; flex-wrap: wrap; }
.looks [role="tablist"] { display: flex; gap: 22px; }
.looks [role="tab"] { background: none; border: 0; padding: 4px 0 6px; color: var(--soft); font-weight: 400; font-size: 15px; border-radius: 0; }
.looks [role="tab"].on { color: var(--ink); font-weight: 600; box-shadow: 0 2px 0 var(--ink); }
.counts { margin-left: auto; }
.counts input { font-size: 13.5px; padding: 1px 4px; }
.foot { display: flex; gap: 14px; margin-top: 34px; border-top: 1px solid var(--rule); padding-top: 8px; flex-wrap: wrap; }
.conflict { border-left: 3px solid var(--rust); padding-left: 12px; }
.desk.watching { grid-template-columns: minmax(0, 1fr) 420px; }
@media (max-width: 900px) { .desk, .desk.watching { grid-template-columns: 1fr; } .script { padding: 16px; } }
</style>
