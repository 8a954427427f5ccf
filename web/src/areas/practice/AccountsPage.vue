<script setup lang="ts">
/** The accounts a person may enter; who may enter one only is taken there. */
import { watchEffect } from "vue";
import { useRouter } from "vue-router";

import HowLong from "./HowLong.vue";
import { useSession } from "@/queries/session";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";

const { session } = useSession();
const router = useRouter();
watchEffect(() => {
  const only = session.value?.accounts.length === 1 ? session.value.accounts[0] : undefined;
  if (only) void router.replace({ name: "today", params: { account: only.slug } });
});
const COLUMNS: Column[] = [
  { key: "account", label: "Account", heads: true, class: "serif" },
  { key: "zone", label: "Time zone" },
  { key: "role", label: "You are its" },
];
</script>

<template>
  <div class="page">
    <h1>Accounts</h1>
    <p class="lead">Each client business has its own people, workflows and messages.</p>
    <DataTable caption="Accounts" :rows="session?.accounts ?? []" :columns="COLUMNS">
      <template #account="{ item }"
        ><RouterLink class="name" :to="{ name: 'workflows', params: { account: item.slug } }">{{ item.name }}</RouterLink></template
      >
      <template #role="{ item }">{{ item.role === "team" ? "team member" : item.role }}</template>
    </DataTable>
    <HowLong v-if="session?.consultant" />
  </div>
</template>

<style scoped>
.name {
  font-size: 17px;
}
</style>
