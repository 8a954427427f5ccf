<script setup lang="ts">
/** Who is in a deal and in which part, the account's own fields for deals, and notes. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useFieldKinds } from "@/queries/useFieldKinds";
import { useAccount } from "@/queries/session";
import ContactPick from "@/shared/ContactPick.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

type Deal = Schemas["DealPageOut"];
const props = defineProps<{ deal: Deal; may: boolean }>();
const account = useAccount();
const touched = useTouched();
const answered = useAnswered("/deals/{deal_id}", () => ({ path: { deal_id: props.deal.id } }));
const { pending, act } = usePending({ inTurn: true });
const { kindOf } = useFieldKinds();
const path = () => ({ account: account.value, deal_id: props.deal.id });
const change = (call: () => Promise<Deal>) => act(async () => answered(await call()));
const part = ref("");
const adds = ref(false);
const note = ref("");
const putIn = (contact_id: number, as: string) =>
  change(() => ok(api.PUT("/api/accounts/{account}/deals/{deal_id}/people", { params: { path: path() }, body: { contact_id, part: as } })));
async function add(id: number | undefined) {
  if (id && (await putIn(id, part.value))) {
    adds.value = false;
    part.value = "";
  }
}
const takeOut = (contact_id: number) =>
  change(() =>
    ok(api.DELETE("/api/accounts/{account}/deals/{deal_id}/people/{contact_id}", { params: { path: { ...path(), contact_id } } })),
  );
async function write() {
  const call = () =>
    ok(api.POST("/api/accounts/{account}/deals/{deal_id}/notes", { params: { path: path() }, body: { text: note.value } }));
  if (await change(call)) note.value = "";
}
const dropNote = (note_id: number) =>
  change(() => ok(api.DELETE("/api/accounts/{account}/deals/{deal_id}/notes/{note_id}", { params: { path: { ...path(), note_id } } })));
async function setField(name: string, value: string) {
  const body = { fields: { [name]: value } };
  await act(() => ok(api.PATCH("/api/accounts/{account}/deals/{deal_id}", { params: { path: path() }, body })));
  void touched("/deals/{deal_id}");
}
/** What is chosen from; none where it is typed. */
function choicesOf(one: Deal["fields"][number]) {
  const kind = kindOf(one.kind);
  if (kind?.picks !== "one") return undefined;
  return ["", ...(kind.own_choices ? one.choices : kind.fixed)].map((value) => ({ value, words: value || "not said" }));
}
const typeOf = (kind: string) => (["date", "number"].find((one) => one === kindOf(kind)?.input) ?? "text") as "text";
</script>

<template>
  <aside aria-label="About the deal">
    <h2>Who is in it</h2>
    <p v-for="(one, n) in deal.people" :key="one.contact_id" class="who">
      <RouterLink :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.name }}</RouterLink>
      <span v-if="!n" class="soft"> whose deal it is</span>
      <template v-else
        >,
        <WordPart
          :value="one.part"
          :label="`What ${one.name} is in it`"
          empty="in some part"
          :most="60"
          :disabled="!may"
          @keep="putIn(one.contact_id, $event)" />
        <BButton
          v-if="may"
          variant="link"
          class="icon"
          :aria-label="`Take ${one.name} out`"
          :disabled="pending"
          @click="takeOut(one.contact_id)"
          >✕</BButton
        ></template
      >
    </p>
    <div v-if="adds" class="add">
      <FormRow label="Their part"><BFormInput v-model.trim="part" maxlength="60" placeholder="pays, decides, comes along" /></FormRow>
      <ContactPick :model-value="undefined" name="somebody" no-invented @update:model-value="add" />
    </div>
    <p v-else-if="may"><BButton variant="link" @click="adds = true">Somebody else…</BButton></p>
    <template v-if="deal.fields.length">
      <h2>What is known</h2>
      <p v-for="one in deal.fields" :key="one.name" class="field">
        <span class="soft">{{ one.name }}</span>
        <WordPart
          :value="one.value"
          :label="one.name"
          :choices="choicesOf(one)"
          :type="typeOf(one.kind)"
          empty="not said"
          :most="2000"
          :disabled="!may"
          @keep="setField(one.name, $event)" />
      </p>
    </template>
    <h2>Notes</h2>
    <form v-if="may" class="add" @submit.prevent="write">
      <BFormTextarea v-model.trim="note" aria-label="A note about the deal" rows="2" maxlength="4000" placeholder="what was agreed" />
      <BButton variant="outline-primary" type="submit" :disabled="pending || !note">Note it</BButton>
    </form>
    <div v-for="one in deal.notes" :key="one.id" class="note">
      <p class="said">{{ one.text }}</p>
      <small class="soft"
        >{{ one.by }}, {{ one.at }}
        <BButton
          v-if="may"
          variant="link"
          class="icon"
          :aria-label="`Take away the note of ${one.at}`"
          :disabled="pending"
          @click="dropNote(one.id)"
          >✕</BButton
        ></small
      >
    </div>
    <p v-if="!deal.notes.length && !may" class="soft">none</p>
  </aside>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
h2:first-child {
  margin-top: 0;
}
p {
  margin: 0 0 5px;
}
.field {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 10px;
  align-items: baseline;
}
.add {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.add textarea {
  width: 100%;
}
.note {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}
.said {
  font: 16px/1.45 var(--serif);
  white-space: pre-line;
  overflow-wrap: anywhere;
}
</style>
