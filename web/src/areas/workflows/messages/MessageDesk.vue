<script setup lang="ts">
/** A message of the library: its words written as in a line of a script; beside them what it is for, who says it, what is wrong. */
import { computed, defineAsyncComponent, onMounted } from "vue";
import { useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useSubject } from "@/router/titles";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import PartInPlace from "@/sentences/PartInPlace.vue";
import NameInPlace from "@/ui/NameInPlace.vue";
import { tell } from "@/ui/told";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { useLetterAt } from "../letter/useLetterAt";
import CheckList from "../script/CheckList.vue";
import { setAt } from "../script/document";
import DraftClash from "../script/DraftClash.vue";
import FindAsk from "../script/FindAsk.vue";
import { loadMergeText } from "../script/mergeText";
import MessageNotes from "../script/MessageNotes.vue";
import LackingFields from "../script/LackingFields.vue";
import MessageLabels from "./MessageLabels.vue";
import NextMessagesAsk from "./NextMessagesAsk.vue";
import PublishMessageAsk from "./PublishMessageAsk.vue";
import SaidBy from "./SaidBy.vue";
import ShowAsk from "../shown/ShowAsk.vue";
import ShownHere from "../shown/ShownHere.vue";
import { useKept } from "../script/useKept";
import { useUndoKeys } from "../script/useUndoKeys";
import { useVersion } from "../script/useVersion";
import { useMessage } from "./useMessage";

const LetterPage = defineAsyncComponent(() => import("../letter/LetterPage.vue"));
const props = defineProps<{
  stored: Schemas["WorkflowOut"];
  row: Schemas["MessageRow"];
  catalogue: Schemas["CatalogueOut"];
  details: Schemas["AccountDetails"];
}>();
const emit = defineEmits<{ named: []; published: [] }>();
const account = useAccount();
const router = useRouter();
const touched = useTouched();
const { draft, script, step, kind, values, checks } = useMessage(account, props.stored, props.catalogue, props.details.name);
const { letterAt, closeLetter } = useLetterAt(() => undefined);
useSubject(() => props.row.name);
const { goBack } = useVersion(account, props.stored, draft);
onMounted(() => {
  loadMergeText();
  const take = new URLSearchParams(window.location.search).get("take");
  if (take) void goBack(Number(take));
});
const asking = useAsking<"publish" | "find" | "once" | "show" | "next">("show");
const messages = computed(() => kind.value.parts.filter((part) => part.sort === "message"));
const usual = computed(() => kind.value.parts.filter((part) => part.field === "purpose" || part.field === "sender"));
const may = script.mayWrite;
const kept = useKept(draft);
const { act } = usePending();
const body = (more: Partial<Schemas["MessageIn"]>) => ({
  name: props.row.name,
  labels: props.row.labels,
  archived: props.row.archived,
  ...more,
});
async function put(more: Partial<Schemas["MessageIn"]>) {
  await draft.save();
  await ok(
    api.PUT("/api/accounts/{account}/messages/{message_id}", {
      params: { path: { account: account.value, message_id: props.stored.id } },
      body: body(more),
    }),
  );
  await touched("/messages", "/messages/{message_id}", "/messages/sayable", "/names");
}
const change = (more: Partial<Schemas["MessageIn"]>) => act(() => put(more));
async function rename(name: string) {
  await put({ name });
  tell(`It is called “${name}” everywhere now.`);
  emit("named");
}
const set = (field: string, value: unknown) => draft.change((doc) => doc.steps[0] && setAt(doc.steps[0], field, value));
/** What is asked is about what is kept. */
async function ask(what: "publish" | "show" | "next") {
  await draft.save();
  asking.value = what;
}
function published(said: string) {
  asking.value = "";
  draft.changes.value = [];
  tell(said);
  emit("published");
  void touched("/messages", "/messages/sayable");
}
function nextMade(said: string, scripted: number | null) {
  asking.value = "";
  tell(said);
  void router.push(scripted ? { name: "workflow", params: { workflow: scripted } } : { name: "messages" });
}
useUndoKeys(draft, () => may.value && !letterAt.value);
</script>

<template>
  <LetterPage
    v-if="letterAt"
    :key="letterAt.join()"
    :step="letterAt[0]"
    :field="letterAt[1]"
    :kinds="catalogue.written_with.letter_lines"
    :fields="catalogue.merge_fields"
    :draft="draft"
    back="Back to the message"
    @close="closeLetter" />
  <div v-else class="page desk">
    <section class="words">
      <p class="small"><RouterLink :to="{ name: 'messages' }">All messages</RouterLink></p>
      <div class="title">
        <NameInPlace :name="row.name" label="Name of the message" :may="may" :keep="rename" />
        <span class="soft small" role="status"
          >{{ row.version ? `Version ${row.version} is said` : "Not published yet"
          }}<template v-if="draft.changes.value.length"> · {{ many(draft.changes.value.length, "change") }} not yet published</template> ·
          {{ kept }}</span
        >
        <span class="grow" />
        <BButton
          v-if="may"
          variant="primary"
          :disabled="row.version !== null && !draft.changes.value.length && draft.state.value === 'kept'"
          @click="ask('publish')"
          >Publish…</BButton
        >
      </div>
      <DraftClash :draft="draft" />
      <div id="notes">
        <MessageNotes
          v-for="part in messages"
          :key="part.field"
          :step="step"
          :part="part"
          :kind="kind"
          :fields="catalogue.merge_fields"
          named
          @find="asking = 'find'" />
      </div>
    </section>
    <aside aria-label="About this message">
      <dl>
        <template v-for="part in usual" :key="part.field"
          ><dt>{{ part.field === "purpose" ? "For" : "From" }}</dt>
          <dd class="serif">
            <PartInPlace :part="part" :value="values[part.field]" @change="set(part.field, $event)" /></dd
        ></template>
        <dt>Labels</dt>
        <dd><MessageLabels :labels="row.labels" :open="may" @change="change({ labels: $event })" /></dd>
      </dl>
      <SaidBy v-if="row.said_by.length" :by="row.said_by" />
      <p v-else class="soft">No workflow yet. Below the message of a line, choose “say one of the library instead”.</p>
      <LackingFields :workflow="stored.id" :step="step.id" />
      <CheckList :checks="checks" :places="false" />
      <p class="acts">
        <ShownHere :workflow="stored.id" @show="ask('show')" />
        <RouterLink :to="{ name: 'versions', params: { workflow: stored.id } }">Which words were said when</RouterLink>
        <BButton v-if="may && row.version !== null" variant="link" @click="asking = 'once'">Write it once to some people…</BButton>
        <BButton v-if="may" variant="link" @click="ask('next')">Make the next ones from this…</BButton>
        <BButton v-if="may" variant="link" @click="change({ archived: !row.archived })">{{
          row.archived ? "Take it out of the archive" : "Put it in the archive"
        }}</BButton>
      </p>
    </aside>
    <PublishMessageAsk v-if="asking === 'publish'" :message="stored.id" @close="asking = ''" @done="published" />
    <NextMessagesAsk v-if="asking === 'next'" :message="stored.id" :name="row.name" @close="asking = ''" @done="nextMade" />
    <ShowAsk v-if="asking === 'show'" :workflow="stored.id" what="this message" :may="may" @close="asking = ''" />
    <FindAsk v-if="asking === 'find'" @close="asking = ''" />
    <EnrolAsk
      v-if="asking === 'once'"
      :message="{ id: stored.id, name: row.name }"
      @close="asking = ''"
      @done="
        asking = '';
        tell($event);
        touched('/messages/once', '/messages', '/messages/{message_id}');
      " />
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: minmax(0, 640px) minmax(0, 340px);
  gap: 40px;
}
.title {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 12px;
  margin-bottom: 14px;
}
aside {
  border-left: 1px solid var(--rule);
  padding-left: 24px;
}
dl {
  display: grid;
  grid-template-columns: 5em 1fr;
  gap: 6px 10px;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
  margin-top: 18px;
}
@media (max-width: 860px) {
  .desk {
    display: block;
  }
  aside {
    border: 0;
    padding: 16px 0 0;
  }
}
</style>
