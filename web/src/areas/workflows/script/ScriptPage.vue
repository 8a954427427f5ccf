<script setup lang="ts">
/** The workflow page: the script in the middle, written, rehearsed or watched; the notes column beside it. */
import { computed, defineAsyncComponent, onMounted, ref, shallowRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import type { Schemas } from "@/api/client";
import RehearsePane from "@/areas/workflows/rehearse/RehearsePane.vue";
import { useRehearsal } from "@/areas/workflows/rehearse/useRehearsal";
import WatchPane from "@/areas/workflows/watch/WatchPane.vue";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useSubject } from "@/router/titles";
import { plain, wordsOf, type Book, type Values } from "@/sentences/written";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import ColourPick from "./ColourPick.vue";
import { walk } from "./document";
import FindAsk from "./FindAsk.vue";
import HeadSentence from "./HeadSentence.vue";
import KeysAsk from "./KeysAsk.vue";
import { useLetterAt } from "../letter/useLetterAt";
import { loadMergeText } from "./mergeText";
import NextAsk from "./NextAsk.vue";
import ShowAsk from "../shown/ShowAsk.vue";
import NotesColumn from "./NotesColumn.vue";
import PasteAsk from "./PasteAsk.vue";
import PublishAsk from "./PublishAsk.vue";
import { provideScript, type Behind, type Look, type Script } from "./script";
import ScriptDescription from "./ScriptDescription.vue";
import ScriptFoot from "./ScriptFoot.vue";
import ScriptLooks from "./ScriptLooks.vue";
import ScriptRun from "./ScriptRun.vue";
import ScriptTitle from "./ScriptTitle.vue";
import { useDraft } from "./useDraft";
import { useKeys } from "./useKeys";
import { useLines } from "./useLines";
import { useMending } from "./useMending";
import { useNames } from "./useNames";
import { useNotes } from "./useNotes";
import { grouped, useReading } from "./useReading";
import { useVersion } from "./useVersion";

const LetterPage = defineAsyncComponent(() => import("../letter/LetterPage.vue"));
const props = defineProps<{ stored: Schemas["WorkflowOut"]; catalogue: Schemas["CatalogueOut"]; details: Schemas["AccountDetails"] }>();
const account = useAccount();
const route = useRoute();
const router = useRouter();
const draft = useDraft(account.value, props.stored.id, plain(props.stored.document), props.stored.revision, props.stored.local_changed);
const { doc } = draft;
const written = props.catalogue.written_with;
const kinds = new Map(written.kinds.map((kind) => [kind.kind, kind]));
const lines = useLines(account, props.stored.id, doc, draft.change, (step) => {
  const kind = kinds.get(step.kind);
  return kind ? wordsOf(kind, step as unknown as Values, book.value) : step.kind;
});
const { selected, chosen, adding, folded, select } = lines;

/** How it is looked at is in the address: a link leads to the people of a workflow as well as to its words. */
const look = computed<Look>({
  get: () => (route.query.look === "rehearse" || route.query.look === "watch" ? route.query.look : "write"),
  set: (next) => void router.replace({ query: { ...route.query, look: next === "write" ? undefined : next } }),
});
const watching = ref<Behind>();
const only = ref<"" | "inside" | "stuck" | "paused" | "left">("");
const headOpen = ref(props.stored.version === null);
const asking = useAsking<"publish" | "keys" | "find" | "next" | "show">("show");
const nextFrom = ref("");
const startAt = ref(props.details.local_now.slice(0, 16));
const mayWrite = computed(() => props.details.rights.includes("workflows"));
useSubject(() => doc.value.name);

const { version, isOpen, published, goBack, setOpen } = useVersion(account, props.stored, draft);
const { settled, reading, checks, words, readingsByLine, checksByLine } = useReading(account, props.stored.id, doc, startAt);
const { names, ownFields, namesRead } = useNames(draft.state);
const { noted, toNotes } = useNotes(selected);
const rehearsal = useRehearsal(account, props.stored.id, doc, settled, startAt, () => look.value === "rehearse");
const rehearsePane = ref<InstanceType<typeof RehearsePane>>();
// While somebody writes, only how many are inside is shown, and now and then is enough.
const { data: watched, ...watchedRead } = useRead(
  "/workflows/{workflow_id}/watch",
  () => ({
    path: { workflow_id: props.stored.id },
    query: { step: watching.value?.step ?? "", number: watching.value?.number ?? "here", only: only.value },
  }),
  {
    live: () => look.value === "watch",
    refetchInterval: () => (look.value === "watch" ? false : 10_000),
    placeholderData: (before) => before,
  },
);
const { carryOut, mendFirst, nextCheck } = useMending(doc, checks, lines, draft.change);
const tests = new Map(written.tests.map((test) => [test.kind, test]));
const triggers = new Map(written.triggers.map((trigger) => [trigger.kind, trigger]));
/** One and the same throughout, so that a new reading draws only the lines anew that use what changed. */
const book = shallowRef<Book>({
  tests,
  triggers,
  fieldName: (field) => ownFields.value[field] ?? field,
  lineName: (step) => words.value.get(step) ?? "a line that is gone",
});
const script: Script = {
  account,
  doc,
  kinds: computed(() => kinds),
  book,
  events: computed(() => written.events),
  names,
  namesRead,
  ownFields,
  tasks: computed(() =>
    [...walk(doc.value.steps)]
      .filter((step) => kinds.get(step.kind)?.who === "member")
      .map((step) => ({ id: step.id, words: words.value.get(step.id) ?? step.kind })),
  ),
  look,
  mayWrite,
  open: computed(() => look.value === "write" && mayWrite.value),
  selected,
  noted,
  chosen,
  folded,
  adding,
  readings: readingsByLine,
  checks: checksByLine,
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
provideScript(script);

watch(look, () => {
  adding.value = undefined;
  selected.value = "";
});
watch(script.steppedTo, (id) => id && document.getElementById(`line-${id}`)?.scrollIntoView({ block: "nearest" }));

const { letterAt, closeLetter } = useLetterAt(select);
const { act } = usePending();
const paste = () => act(lines.paste);
const { onScriptKey } = useKeys({
  look,
  away: () => !!letterAt.value,
  mayWrite,
  headOpen,
  draft,
  lines,
  rehearsal,
  toNotes,
  paste,
  mendFirst,
  nextCheck,
  publish: () => ask(),
  ask: (what) => (asking.value = what),
  keep: () => rehearsePane.value?.keep(),
});
onMounted(() => {
  const { line, take } = Object.fromEntries(new URLSearchParams(window.location.search));
  if (line) select(line, true);
  if (take) void goBack(Number(take));
  if (!doc.value.steps.length && mayWrite.value && !props.stored.version) lines.addBelow(); // what is begun is written at once
  loadMergeText();
});

/** What is asked is about what is kept. */
async function ask(what: typeof asking.value = "publish") {
  if (what === "publish" || what === "show") await draft.save();
  asking.value = what;
}
function makeNext(step: string) {
  nextFrom.value = step;
  asking.value = "next";
}
</script>

<template>
  <LetterPage
    v-if="letterAt"
    :key="letterAt.join()"
    :step="letterAt[0]"
    :field="letterAt[1]"
    :kinds="written.letter_lines"
    :fields="catalogue.merge_fields"
    :draft="draft"
    @close="closeLetter" />
  <div v-else class="desk" :class="{ watching: look === 'watch' }">
    <section class="script" @click="select('')">
      <ScriptTitle
        :draft="draft"
        :version="version"
        :open="isOpen"
        :inside="watched?.inside ?? stored.inside"
        :local-now="details.local_now"
        @publish="ask()" />
      <p v-if="look !== 'write'" class="sum serif">{{ reading?.reading.summary }}</p>
      <template v-else>
        <ScriptDescription v-if="mayWrite || doc.description" @click.stop />
        <ColourPick v-if="mayWrite" :workflow="stored.id" :colour="stored.colour" @click.stop />
        <HeadSentence v-model:open="headOpen" :over="reading?.reading.over ?? ''" :house="reading?.house ?? []" @click.stop />
      </template>
      <ScriptLooks v-model:start="startAt" :reading="reading" :rehearsal="rehearsal" />
      <div id="script" class="lines" role="group" aria-label="The script" @keydown="onScriptKey">
        <ScriptRun :steps="doc.steps" lane="" />
      </div>
      <ScriptFoot
        :draft="draft"
        :lines="lines"
        :workflow="stored.id"
        :version="version"
        :open="isOpen"
        @paste="paste"
        @ask="ask"
        @door="setOpen" />
    </section>
    <div class="side">
      <RehearsePane v-if="look === 'rehearse'" ref="rehearsePane" v-model:start="startAt" :rehearsal="rehearsal" />
      <WatchPane
        v-else-if="look === 'watch'"
        v-model:only="only"
        :watch="watched"
        :reading="watchedRead"
        :workflow="stored.id"
        :name="doc.name"
        :published="version !== null" />
      <NotesColumn v-else :fields="catalogue.merge_fields" :all-checks="checks" @find="asking = 'find'" @next="makeNext" />
    </div>
    <PublishAsk
      v-if="asking === 'publish'"
      :workflow="stored.id"
      @close="asking = ''"
      @done="
        asking = '';
        published($event);
      " />
    <ShowAsk v-if="asking === 'show'" :workflow="stored.id" what="this script" :may="mayWrite" @close="asking = ''" />
    <KeysAsk v-if="asking === 'keys'" @close="asking = ''" />
    <FindAsk v-if="asking === 'find'" @close="asking = ''" />
    <NextAsk v-if="asking === 'next'" :step="nextFrom" @close="asking = ''" />
    <PasteAsk
      v-if="lines.pasting.value"
      :steps="lines.pasting.value.steps"
      :missing="lines.pasting.value.missing"
      @close="lines.pasting.value = undefined"
      @done="lines.put" />
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  min-height: calc(100vh - 46px);
}
.side {
  border-left: 1px solid var(--rule);
  background: var(--paper);
  min-width: 0;
}
.side :deep(aside) {
  padding: 20px 24px;
  position: sticky;
  top: 0;
  max-height: 100vh;
  overflow-y: auto;
}
.script {
  padding: 18px 26px 80px 28px;
  min-width: 0;
}
.sum {
  font-size: 17px;
  margin: 6px 0 12px;
  max-width: 46em;
}
.desk.watching {
  grid-template-columns: minmax(0, 1fr) 420px;
}
@media (max-width: 900px) {
  .desk,
  .desk.watching {
    grid-template-columns: 1fr;
  }
  .script {
    padding: 16px;
  }
}
</style>
