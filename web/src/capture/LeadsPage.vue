<script setup lang="ts">
/** Sources of leads: which are alive, and what became of what they sent. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import PeopleTabs from "@/people/PeopleTabs.vue";
import { useUses } from "@/people/useUses";
import { useAccount, useAccountDetails } from "@/practice/session";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";

const account = useAccount();
const router = useRouter();
const { data: sources, ...sourcesRead } = useQuery({ queryKey: ["lead-sources", account], queryFn: () => ok(api.GET("/api/accounts/{account}/lead-sources", { params: { path: { account: account.value } } })), meta: LIVE });
const { data: details } = useAccountDetails();
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const { places } = useUses();
const name = ref("");
const { pending, act } = usePending();
async function make() {
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/lead-sources", { params: { path: { account: account.value } }, body: { name: name.value } }));
    router.push(`/${account.value}/people/leads/${made.id}`);
  });
}
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row"><h1>Leads</h1><span class="soft">people whom other systems send by webhook</span></div>
    <ReadState :of="sourcesRead" what="The sources of leads">
    <table v-if="sources?.length">
      <thead><tr><th>Source</th><th /><th>Last came</th><th class="num">Taken</th><th class="num">Waiting</th><th class="num">Failed</th><th>Used in</th></tr></thead>
      <tbody>
        <tr v-for="one in sources" :key="one.id">
          <td class="serif"><RouterLink :to="`/${account}/people/leads/${one.id}`">{{ one.name }}</RouterLink></td>
          <td><span v-if="!one.on" class="soft">off</span><span v-else-if="!one.ready" class="thrift">◆ fields to match</span><span v-else class="kelp">✓ on</span></td>
          <td :class="{ gorse: !one.last }">{{ one.last || "◷ nothing yet" }}</td>
          <td class="num">{{ one.taken }}</td><td class="num" :class="{ gorse: one.waiting }">{{ one.waiting }}</td><td class="num" :class="{ rust: one.failed }">{{ one.failed }}</td><td class="small">{{ places("source", one.name).join(", ") || "–" }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="sources" class="empty">No source yet. Name the system that will send people, for instance “Spring advert”; it gets an address of its own.</p>
    <form v-if="may" class="row" @submit.prevent="make"><label><span>A new source</span><input v-model.trim="name" required maxlength="120" placeholder="Spring advert" /></label><button :disabled="pending">Make its address</button></form>
    </ReadState>
  </div>
</template>

<style scoped>
form { align-items: end; margin-top: 20px; }
</style>
