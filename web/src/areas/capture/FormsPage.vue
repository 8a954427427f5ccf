<script setup lang="ts">
/** The account's forms. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useUses } from "@/shared/useUses";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { useAsking } from "@/ui/useAsking";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";

const account = useAccount();
const router = useRouter();
const path = computed(() => ({ account: account.value }));
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { data: forms, ...formsRead } = useRead("/forms", undefined, { live: true });
const { places: usesOf } = useUses();
const { pending, act } = usePending();
const asking = useAsking("new");
const name = ref("");
const forTeam = ref(false);
async function make() {
  await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/forms", { params: { path: path.value }, body: { name: name.value, for_team: forTeam.value } }),
    );
    void router.push({ name: "form", params: { form: made.id } });
  });
}
const COLUMNS: Column[] = [
  { key: "form", label: "Form", heads: true, class: "serif" },
  { key: "filled_in_by", label: "Filled in by" },
  { key: "state", label: "State", hidesLabel: true },
  { key: "answers", label: "Answers", num: true },
  { key: "kept_apart_as_spam", label: "Kept apart as spam", num: true },
  { key: "last_answer", label: "Last answer" },
  { key: "used_in", label: "Used in", class: "small" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Forms"><BButton v-if="may" variant="primary" @click="asking = 'new'">New form</BButton></PageHead>
    <ReadState :of="[formsRead]" what="The forms">
      <DataTable v-if="forms?.length" caption="Forms" :rows="forms" :columns="COLUMNS">
        <template #form="{ item: one }"
          ><RouterLink :to="{ name: 'form', params: { form: one.id } }">{{ one.name }}</RouterLink></template
        >
        <template #filled_in_by="{ item: one }">{{ one.for_team ? "the team" : "anybody, on its page" }}</template>
        <template #state="{ item: one }"
          ><span :class="one.open ? 'kelp' : 'soft'">{{ one.open ? "✓ open" : "closed" }}</span></template
        >
        <template #answers="{ item: one }">{{ one.taken }}</template>
        <template #kept_apart_as_spam="{ item: one }"
          ><span :class="{ gorse: one.spam }">{{ one.spam }}</span></template
        >
        <template #last_answer="{ item: one }">{{ one.last || "none yet" }}</template>
        <template #used_in="{ item: one }">{{ usesOf("form", one.name).join(", ") || "–" }}</template>
      </DataTable>
      <EmptyState v-else-if="forms"
        >No form yet. One could be “Open day”: a name, an email, what one would like to try; its QR code on the poster.</EmptyState
      >
      <p class="soft brand">
        Forms, and all pages that contacts see, are in the account’s <RouterLink :to="{ name: 'brand' }">brand</RouterLink>.
      </p>
    </ReadState>
    <Ask v-if="asking" v-slot="{ close }" title="A new form" @close="asking = ''">
      <form @submit.prevent="make">
        <FormRow label="Name, by which workflows know it" class="line"
          ><BFormInput v-model.trim="name" required maxlength="120" autofocus placeholder="Open day"
        /></FormRow>
        <fieldset>
          <legend>Filled in by</legend>
          <BFormRadio v-model="forTeam" :value="false" name="forTeam">anybody, on its page</BFormRadio>
          <BFormRadio v-model="forTeam" :value="true" name="forTeam">the team, about a contact</BFormRadio>
        </fieldset>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="pending">Make it</BButton
          ><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.brand {
  margin-top: 18px;
}
.line {
  flex: 1;
}
.line input {
  width: 100%;
}
</style>
