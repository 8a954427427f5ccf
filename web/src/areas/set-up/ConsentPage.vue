<script setup lang="ts">
/** What people agreed to, in numbers; and whether this account asks first or writes until they object. */
import { computed, ref, watch } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { number } from "@/ui/words";
import PageHead from "@/ui/PageHead.vue";

type Policy = "ask_first" | "until_they_object";
const account = useAccount();
const touched = useTouched();
const path = computed(() => ({ account: account.value }));
const { data: details } = useAccountDetails();
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { data: care, ...careRead } = useRead("/care");
const { data: agreed, ...agreedRead } = useRead("/consent", undefined, { live: true });
const PURPOSES = [
  ["marketing", "News and offers"],
  ["service", "What they booked or asked for"],
] as const;
const policyFor = (purpose: "marketing" | "service"): Policy => care.value?.policy?.[purpose] ?? "until_they_object";
const shown = computed(() =>
  (agreed.value ?? []).filter((one) => one.reachable || details.value?.channels.find((channel) => channel.name === one.channel)?.answered),
);
/** How many of those with an address may be written to, as the policy has it. */
const open = (one: Schemas["Agreed"]) =>
  policyFor(one.purpose as "marketing") === "ask_first" ? one.given : one.reachable - one.withdrawn;
const { pending, act } = usePending();
const IN_TEXTS = [
  ["every", "in every text"],
  ["automatic", "not in those written by hand"],
  ["named", "only where a text names it"],
] as const;
const toOwn = ref("");
watch(
  () => care.value?.own_page_words,
  (words) => (toOwn.value = words ?? ""),
  { immediate: true },
);
async function change(what: Partial<Schemas["Care"]>) {
  const now = care.value;
  if (!now) return;
  const done = await act(() => ok(api.PUT("/api/accounts/{account}/care", { params: { path: path.value }, body: { ...now, ...what } })));
  if (done) tell("Kept: it holds for what waits in the outbox, too.");
  void touched("/consent", "/care");
}
const set = (purpose: "marketing" | "service", policy: Policy) => change({ policy: { ...care.value?.policy, [purpose]: policy } });
const COLUMNS: Column[] = [
  { key: "channel", label: "Channel", heads: true, class: "serif" },
  { key: "with_an_address", label: "With an address", num: true },
  { key: "agreed", label: "Agreed", num: true, class: "kelp" },
  { key: "opted_out", label: "Opted out", num: true, class: "rust" },
  { key: "asked_no_answer", label: "Asked, no answer", num: true, class: "gorse" },
  { key: "said_nothing", label: "Said nothing", num: true },
  { key: "may_be_written_to", label: "May be written to", num: true },
];
</script>

<template>
  <div class="page">
    <PageHead title="Consent" about="of those who have an address on the channel" />
    <ReadState :of="[careRead, agreedRead]" what="Consent">
      <section v-for="[purpose, words] in PURPOSES" :key="purpose">
        <div class="row">
          <h2>{{ words }}</h2>
          <fieldset :disabled="!may || pending">
            <legend class="sr">{{ words }}: whom this account writes to</legend>
            <label
              ><input type="radio" :name="purpose" :checked="policyFor(purpose) === 'ask_first'" @change="set(purpose, 'ask_first')" /> only
              to who agreed</label
            >
            <label
              ><input
                type="radio"
                :name="purpose"
                :checked="policyFor(purpose) === 'until_they_object'"
                @change="set(purpose, 'until_they_object')" />
              until they object</label
            >
          </fieldset>
        </div>
        <DataTable caption="Consent by channel" :rows="shown.filter((row) => row.purpose === purpose)" :columns="COLUMNS">
          <template #channel="{ item: one }">{{ one.channel }}</template>
          <template #with_an_address="{ item: one }">{{ number(one.reachable) }}</template>
          <template #agreed="{ item: one }">{{ number(one.given) }}</template>
          <template #opted_out="{ item: one }">{{ number(one.withdrawn) }}</template>
          <template #asked_no_answer="{ item: one }">{{ number(one.asked) }}</template>
          <template #said_nothing="{ item: one }">{{ number(one.nothing) }}</template>
          <template #may_be_written_to="{ item: one }"
            ><strong>{{ number(open(one)) }}</strong></template
          >
        </DataTable>
      </section>
      <section>
        <div class="row">
          <h2>The way to their own page</h2>
          <fieldset :disabled="!may || pending">
            <legend class="sr">Which texts carry the link to the contact’s own page</legend>
            <label v-for="[which, words] in IN_TEXTS" :key="which"
              ><input
                type="radio"
                name="own-page"
                :checked="(care?.own_page_in_texts ?? 'every') === which"
                @change="change({ own_page_in_texts: which })" />
              {{ words }}</label
            >
          </fieldset>
        </div>
        <form class="row" @submit.prevent="change({ own_page_words: toOwn.trim() })">
          <FormRow label="Words before the link"
            ><BFormInput v-model="toOwn" maxlength="60" placeholder="Your choices" :disabled="!may"
          /></FormRow>
          <BButton variant="outline-primary" type="submit" :disabled="!may || pending || toOwn.trim() === (care?.own_page_words ?? '')"
            >Keep the words</BButton
          >
        </form>
        <p class="soft">
          There a contact decides what they hear, on which channels, and when. Without words of your own, what is short says “Your choices”,
          all else “What you hear from us, and how”. All that is read carries its link. In a text it takes some 55 letters, and may make it
          one part longer; a message that names the page in its own words carries it once. A voicemail ends by saying that who texts “help”
          to the number is given it.
        </p>
      </section>
      <p class="soft more">
        Every message is decided by this when its line is reached, and once more when it is handed over. Those who said nothing can be
        asked: the <RouterLink :to="{ name: 'starters' }">starter set</RouterLink> has a workflow that renews consent. Proof for one person
        is on their page.
      </p>
    </ReadState>
  </div>
</template>

<style scoped>
section {
  border-top: 1px solid var(--ink);
  padding-top: 10px;
  margin-top: 18px;
}
fieldset {
  display: flex;
  gap: 18px;
  margin: 0;
}
form {
  align-items: end;
  margin: 8px 0 12px;
}
form input {
  width: 20rem;
  max-width: 100%;
}
.more {
  margin-top: 22px;
  max-width: 46rem;
}
</style>
