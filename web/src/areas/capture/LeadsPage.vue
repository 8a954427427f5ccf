<script setup lang="ts">
/** Sources of leads: which are alive, and what became of what they sent. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useUses } from "@/shared/useUses";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import { useMadeAddress } from "./madeAddress";

const account = useAccount();
const router = useRouter();
const { data: sources, ...sourcesRead } = useRead("/lead-sources", undefined, { live: true });
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { places } = useUses();
const name = ref("");
const madeJustNow = useMadeAddress();
const { pending, act } = usePending();
async function make() {
  await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/lead-sources", { params: { path: { account: account.value } }, body: { name: name.value } }),
    );
    madeJustNow.value = { ...madeJustNow.value, [made.id]: made.url };
    void router.push({ name: "lead-source", params: { source: made.id } });
  });
}
const COLUMNS: Column[] = [
  { key: "source", label: "Source", heads: true, class: "serif" },
  { key: "state", label: "State", hidesLabel: true },
  { key: "last_came", label: "Last came" },
  { key: "taken", label: "Taken", num: true },
  { key: "waiting", label: "Waiting", num: true },
  { key: "failed", label: "Failed", num: true },
  { key: "used_in", label: "Used in", class: "small" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Leads" about="people whom other systems send by webhook" />
    <ReadState :of="sourcesRead" what="The sources of leads">
      <DataTable v-if="sources?.length" caption="Sources" :rows="sources" :columns="COLUMNS">
        <template #source="{ item: one }"
          ><RouterLink :to="{ name: 'lead-source', params: { source: one.id } }">{{ one.name }}</RouterLink></template
        >
        <template #state="{ item: one }"
          ><span v-if="!one.on" class="soft">off</span
          ><span v-else-if="!one.ready" class="thrift"><StateMark is="must" /> fields to match</span
          ><span v-else class="kelp"><StateMark is="done" /> on</span></template
        >
        <template #last_came="{ item: one }"
          ><span :class="{ gorse: !one.last }">{{ one.last || "◷ nothing yet" }}</span></template
        >
        <template #taken="{ item: one }">{{ one.taken }}</template>
        <template #waiting="{ item: one }"
          ><span :class="{ gorse: one.waiting }">{{ one.waiting }}</span></template
        >
        <template #failed="{ item: one }"
          ><span :class="{ rust: one.failed }">{{ one.failed }}</span></template
        >
        <template #used_in="{ item: one }">{{ places("source", one.name).join(", ") || "–" }}</template>
      </DataTable>
      <EmptyState v-else-if="sources"
        >No source yet. Name the system that will send people, for instance “Spring advert”; it gets an address of its own.</EmptyState
      >
      <form v-if="may" class="row" @submit.prevent="make">
        <FormRow label="A new source"><BFormInput v-model.trim="name" required maxlength="120" placeholder="Spring advert" /></FormRow
        ><BButton variant="primary" type="submit" :disabled="pending">Make its address</BButton>
      </form>
    </ReadState>
  </div>
</template>

<style scoped>
form {
  align-items: end;
  margin-top: 20px;
}
</style>
