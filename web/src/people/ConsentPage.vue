<script setup lang="ts">
/** What people agreed to, in numbers; and whether this account asks first or writes until they object. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import PeopleTabs from "./PeopleTabs.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

type Policy = "ask_first" | "until_they_object";
const account = useAccount();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value }));
const { data: details } = useAccountDetails();
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const { data: care, ...careRead } = useQuery({ queryKey: ["care", account], queryFn: () => ok(api.GET("/api/accounts/{account}/care", { params: { path: path.value } })) });
const { data: agreed, ...agreedRead } = useQuery({ queryKey: ["consent", account], queryFn: () => ok(api.GET("/api/accounts/{account}/consent", { params: { path: path.value } })), meta: LIVE });
const PURPOSES = [["marketing", "News and offers"], ["service", "What they booked or asked for"]] as const;
const policyFor = (purpose: "marketing" | "service"): Policy => care.value?.policy?.[purpose] ?? "until_they_object";
const shown = computed(() => (agreed.value ?? []).filter((one) => one.reachable || details.value?.channels.find((channel) => channel.name === one.channel)?.answered));
/** How many of those with an address may be written to, as the policy has it. */
const open = (one: Schemas["Agreed"]) => (policyFor(one.purpose as "marketing") === "ask_first" ? one.given : one.reachable - one.withdrawn);
const number = (count: number) => count.toLocaleString("en-GB");
const { pending, act } = usePending();
const IN_TEXTS = [["every", "in every text"], ["automatic", "not in those written by hand"], ["named", "only where a text names it"]] as const;
const toOwn = ref("");
watch(() => care.value?.own_page_words, (words) => (toOwn.value = words ?? ""), { immediate: true });
async function change(what: Partial<Schemas["Care"]>) {
  const now = care.value;
  if (!now) return;
  const done = await act(() => ok(api.PUT("/api/accounts/{account}/care", { params: { path: path.value }, body: { ...now, ...what } })));
  if (done) tell("Kept: it holds for what waits in the outbox, too.");
  cache.invalidateQueries();
}
const set = (purpose: "marketing" | "service", policy: Policy) => change({ policy: { ...care.value?.policy, [purpose]: policy } });
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row"><h1>Consent</h1><span class="soft">of those who have an address on the channel</span></div>
    <ReadState :of="[careRead, agreedRead]" what="Consent">
    <section v-for="[purpose, words] in PURPOSES" :key="purpose">
      <div class="row"><h2>{{ words }}</h2>
        <fieldset :disabled="!may || pending"><legend class="sr">{{ words }}: whom this account writes to</legend>
          <label><input type="radio" :name="purpose" :checked="policyFor(purpose) === 'ask_first'" @change="set(purpose, 'ask_first')" /> only to who agreed</label>
          <label><input type="radio" :name="purpose" :checked="policyFor(purpose) === 'until_they_object'" @change="set(purpose, 'until_they_object')" /> until they object</label>
        </fieldset>
      </div>
      <table>
        <thead><tr><th>Channel</th><th class="num">With an address</th><th class="num">Agreed</th><th class="num">Opted out</th><th class="num">Asked, no answer</th><th class="num">Said nothing</th><th class="num">May be written to</th></tr></thead>
        <tbody>
          <tr v-for="one in shown.filter((row) => row.purpose === purpose)" :key="one.channel">
            <td class="serif">{{ one.channel }}</td><td class="num">{{ number(one.reachable) }}</td><td class="num kelp">{{ number(one.given) }}</td><td class="num rust">{{ number(one.withdrawn) }}</td><td class="num gorse">{{ number(one.asked) }}</td><td class="num">{{ number(one.nothing) }}</td><td class="num"><strong>{{ number(open(one)) }}</strong></td>
          </tr>
        </tbody>
      </table>
    </section>
    <section>
      <div class="row"><h2>The way to their own page</h2>
        <fieldset :disabled="!may || pending"><legend class="sr">Which texts carry the link to the contact’s own page</legend>
          <label v-for="[which, words] in IN_TEXTS" :key="which"><input type="radio" name="own-page" :checked="(care?.own_page_in_texts ?? 'every') === which" @change="change({ own_page_in_texts: which })" /> {{ words }}</label>
        </fieldset>
      </div>
      <form class="row" @submit.prevent="change({ own_page_words: toOwn.trim() })">
        <label><span>Words before the link</span><input v-model="toOwn" maxlength="60" placeholder="Your choices" :disabled="!may" /></label>
        <button class="plain" :disabled="!may || pending || toOwn.trim() === (care?.own_page_words ?? '')">Keep the words</button>
      </form>
      <p class="soft">There a contact decides what they hear, on which channels, and when. Without words of your own, what is short says “Your choices”, all else “What you hear from us, and how”. All that is read carries its link. In a text it takes some 55 letters, and may make it one part longer; a message that names the page in its own words carries it once. A voicemail ends by saying that who texts “help” to the number is given it.</p>
    </section>
    <p class="soft more">Every message is decided by this when its line is reached, and once more when it is handed over. Those who said nothing can be asked: the <RouterLink :to="`/${account}/workflows/starters`">starter set</RouterLink> has a workflow that renews consent. Proof for one person is on their page.</p>
    </ReadState>
  </div>
</template>

<style scoped>
section { border-top: 1px solid var(--ink); padding-top: 10px; margin-top: 18px; }
fieldset { display: flex; gap: 18px; margin: 0; }
form { align-items: end; margin: 8px 0 12px; }
form input { width: 20rem; max-width: 100%; }
.more { margin-top: 22px; max-width: 46rem; }
</style>
