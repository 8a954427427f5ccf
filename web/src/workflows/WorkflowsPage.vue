<script setup lang="ts">
/** The account's workflows with the figures people compare; a new one, or one from a file. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const account = useAccount();
const { data: details } = useAccountDetails();
const router = useRouter();
const { data } = useQuery({
  queryKey: ["workflows", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows", { params: { path: { account: account.value } } })),
  refetchInterval: 5_000,
});
const { data: aside } = useQuery({
  queryKey: ["aside", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/aside", { params: { path: { account: account.value } } })),
  refetchInterval: 5_000,
});
const waits = computed(() => Object.values(aside.value?.counts ?? {}).reduce((sum, count) => sum + count, 0));
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const asking = ref(false);
const name = ref("");
const { pending, fault, act } = usePending();
async function write() {
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/workflows", { params: { path: { account: account.value } }, body: { name: name.value } }));
    router.push(`/${account.value}/workflows/${made.id}`);
  });
}
async function fromFile(files: FileList | null) {
  const file = files?.[0];
  if (!file) return;
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/workflows/from-file", { params: { path: { account: account.value } }, body: { text: await file.text() } }));
    router.push(`/${account.value}/workflows/${made.id}`);
  });
}
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Workflows</h1>
      <span class="grow" />
      <template v-if="may">
        <label class="button plain file">Bring in a file<input class="sr" type="file" accept=".yaml,.yml,.json" @change="fromFile(($event.target as HTMLInputElement).files)" /></label>
        <button @click="asking = true">Write a new one</button>
      </template>
    </div>
    <p v-if="fault && !asking" class="fault" role="alert">{{ fault }}</p>
    <p v-if="waits"><RouterLink class="gorse" :to="`/${account}/workflows/waits`">▲ {{ many(waits, "thing waits", "things wait") }} for somebody</RouterLink></p>
    <table v-if="data?.length">
      <thead><tr><th>Workflow</th><th>State</th><th class="num">Inside</th><th class="num">Came in</th><th class="num">Messages, 30 days</th><th>Checks</th><th>Last change</th></tr></thead>
      <tbody>
        <tr v-for="row in data" :key="row.id">
          <td class="what"><RouterLink class="serif name" :to="`/${account}/workflows/${row.id}`">{{ row.name }}</RouterLink><br /><small class="soft">{{ row.summary }}</small></td>
          <td>
            <span v-if="!row.version" class="soft">draft</span><span v-else-if="row.open" class="kelp">● runs</span><span v-else class="gorse">closed</span>
            <br /><small class="soft">{{ row.version ? `version ${row.version}` : "" }}{{ row.unpublished ? ", unpublished changes" : "" }}</small>
          </td>
          <td class="num">{{ row.inside }}</td><td class="num">{{ row.came }}</td><td class="num">{{ row.messages_30_days }}</td>
          <td><span v-if="row.errors" class="rust">✕ {{ many(row.errors, "error") }}</span><span v-else-if="row.warnings" class="gorse">▲ {{ row.warnings }}</span><span v-else class="soft">none</span></td>
          <td class="soft">{{ row.local_changed }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="empty">No workflow is written yet. Write the first one as you would on paper, for instance: text them, wait three days for an answer, ring those who say yes.</p>
    <Ask v-if="asking" v-slot="{ close }" title="A new workflow" @close="asking = false">
      <form @submit.prevent="write">
        <label><span>What is it called</span><input v-model.trim="name" required maxlength="120" autofocus placeholder="After the open day" size="36" /></label>
        <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
        <div class="actions"><button :disabled="pending">Write it</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
table { margin-top: 14px; }
.name { font-size: 17px; }
.what { max-width: 30rem; }
.file:focus-within { outline: 2px solid var(--sea); }
</style>
