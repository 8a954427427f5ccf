<script setup lang="ts">
/** A rule for words that come in: which words, by which channels, and what they do. */
import { computed, reactive } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import { cut } from "@/ui/words";
import { MATCH } from "./match";

const props = defineProps<{ rule: Schemas["RuleOut"] | "new" }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const path = computed(() => ({ account: account.value }));
const { data: names } = useRead("/names");
const { data: workflows } = useRead("/workflows");
const { pending, act } = usePending();
const own = props.rule === "new" ? undefined : props.rule;
const acts = own?.acts;
const form = reactive({
  on: own?.on ?? true,
  text: own?.channels?.includes("text") ?? true,
  email: own?.channels?.includes("email") ?? false,
  match: own?.match ?? ("is" as NonNullable<Schemas["RuleIn"]["match"]>),
  words: own?.words.join(", ") ?? "",
  tags: acts?.tags?.join(", ") ?? "",
  tags_off: acts?.tags_off?.join(", ") ?? "",
  lists: acts?.lists?.join(", ") ?? "",
  lists_off: acts?.lists_off?.join(", ") ?? "",
  assign: acts?.assign ?? "",
  workflow: acts?.workflow ?? 0,
  answer: acts?.answer ?? "",
  after: acts?.after ?? 0,
});
const set = useAnswered("/incoming-rules");
async function keep() {
  const channels = [...(form.text ? (["text"] as const) : []), ...(form.email ? (["email"] as const) : [])];
  const body: Schemas["RuleIn"] = {
    on: form.on,
    channels,
    match: form.match,
    words: cut(form.words),
    acts: {
      tags: cut(form.tags),
      tags_off: cut(form.tags_off),
      lists: cut(form.lists),
      lists_off: cut(form.lists_off),
      assign: form.assign,
      workflow: form.workflow,
      answer: form.answer,
      after: form.after,
    },
  };
  const done = await act(async () =>
    set(
      !own
        ? await ok(api.POST("/api/accounts/{account}/incoming-rules", { params: { path: path.value }, body }))
        : await ok(
            api.PUT("/api/accounts/{account}/incoming-rules/{rule_id}", {
              params: { path: { ...path.value, rule_id: own.id } },
              body,
            }),
          ),
    ),
  );
  if (done) emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="own ? 'Change the rule' : 'A new rule'" wide @close="emit('close')">
    <form class="form" @submit.prevent="keep">
      <p class="row">
        <BFormCheckbox v-model="form.text" class="tick">a text</BFormCheckbox
        ><BFormCheckbox v-model="form.email" class="tick">an email</BFormCheckbox
        ><FormRow label="How" hides-label
          ><BFormSelect v-model="form.match"
            ><option v-for="[match, words] in MATCH" :key="match" :value="match">{{ words }}</option></BFormSelect
          ></FormRow
        ><FormRow label="Words, by comma" hides-label class="grow"
          ><BFormInput v-model="form.words" required placeholder="HELLO, hello there" autofocus
        /></FormRow>
      </p>
      <FormRow label="Gets the tags"><BFormInput v-model="form.tags" list="known-tags" /></FormRow
      ><FormRow label="Loses the tags"><BFormInput v-model="form.tags_off" list="known-tags" /></FormRow>
      <FormRow label="Comes onto the lists"><BFormInput v-model="form.lists" /></FormRow
      ><FormRow label="Leaves the lists"><BFormInput v-model="form.lists_off" /></FormRow>
      <FormRow label="Goes to"
        ><BFormSelect v-model="form.assign"
          ><option value="">nobody in particular</option>
          <option v-for="one in names?.names.member" :key="one.name">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <FormRow label="Comes into the workflow"
        ><BFormSelect v-model="form.workflow"
          ><option :value="0">none</option>
          <option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <FormRow label="Is answered" class="all"
        ><BFormTextarea
          v-model="form.answer"
          rows="2"
          maxlength="1000"
          placeholder='Thank you, {{ contact.first_name | default: "and welcome" }}.'
      /></FormRow>
      <FormRow label="after so many minutes"><BFormInput v-model.number="form.after" type="number" min="0" max="10080" /></FormRow
      ><BFormCheckbox v-model="form.on" class="tick">the rule is on</BFormCheckbox>
      <datalist id="known-tags"><option v-for="one in names?.names.tag" :key="one.name" :value="one.name" /></datalist>
      <div class="actions all">
        <BButton variant="primary" type="submit" :disabled="pending || !(form.text || form.email)">Keep the rule</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 20px;
}
.form p,
.all {
  grid-column: 1 / -1;
}
</style>
