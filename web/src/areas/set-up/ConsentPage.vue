<script setup lang="ts">
/** Consent: whom the account writes to, how somebody agrees and for how long it holds, the ways out; and what people agreed to, in
 * numbers. */
import { computed } from "vue";

import { useRead } from "@/queries/account";
import type { Schemas } from "@/api/client";
import { useAccountDetails } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { cut, many, number } from "@/ui/words";
import { useCare } from "./useCare";

type Policy = "ask_first" | "until_they_object";
type Purpose = "marketing" | "service";
const { data: details } = useAccountDetails();
const { care, careRead, keep, faults, may } = useCare();
const { data: agreed, ...agreedRead } = useRead("/consent", undefined, { live: true });
const PURPOSES: [Purpose, string][] = [
  ["marketing", "News and offers"],
  ["service", "What they booked or asked for"],
];
const POLICIES = [
  { value: "until_they_object", words: "to everybody until they object" },
  { value: "ask_first", words: "only to who agreed" },
];
const IN_TEXTS = [
  { value: "every", words: "in every text" },
  { value: "automatic", words: "in texts that go by themselves" },
  { value: "named", words: "only in texts that name it" },
];
const CONFIRMS = [
  { value: "", words: "holds at once" },
  { value: "yes", words: "holds once they confirm it" },
];
const policyFor = (purpose: Purpose): Policy => care.value?.policy?.[purpose] ?? "until_they_object";
const shown = computed(() =>
  (agreed.value ?? []).filter((one) => one.reachable || details.value?.channels.find((channel) => channel.name === one.channel)?.answered),
);
const of = (purpose: Purpose) => shown.value.filter((row) => row.purpose === purpose);
/** How many of those with an address may be written to, as the policy has it. */
const open = (one: Schemas["Agreed"]) => (policyFor(one.purpose as Purpose) === "ask_first" ? one.given : one.reachable - one.withdrawn);
const openBy = (purpose: Purpose) =>
  of(purpose)
    .map((one) => `${number(open(one))} by ${one.channel}`)
    .join(", ");
const asksFirst = computed(() => PURPOSES.some(([purpose]) => policyFor(purpose) === "ask_first"));
const runOut = computed(() => Math.max(0, ...shown.value.map((one) => one.run_out)));
const COLUMNS: Column[] = [
  { key: "channel", label: "Channel", heads: true, class: "serif" },
  { key: "with_an_address", label: "With an address", num: true },
  { key: "agreed", label: "Agreed", num: true, class: "kelp" },
  { key: "run_out", label: "Run out", num: true, class: "gorse" },
  { key: "opted_out", label: "Opted out", num: true, class: "rust" },
  { key: "asked_no_answer", label: "Asked, no answer", num: true, class: "gorse" },
  { key: "said_nothing", label: "Said nothing", num: true },
  { key: "may_be_written_to", label: "May be written to", num: true },
];
</script>

<template>
  <div class="page">
    <PageHead title="Consent" about="what is changed holds for what waits in the outbox, too" />
    <ReadState :of="[careRead, agreedRead]" what="Consent">
      <template v-if="care">
        <SetHead title="Whom we write to" first />
        <SetLine v-for="[purpose, words] in PURPOSES" :key="purpose" :fault="purpose === 'marketing' ? faults.policy : ''">
          {{ words }} {{ purpose === "marketing" ? "go" : "goes" }}
          <WordPart
            :value="policyFor(purpose)"
            :label="`${words}: whom this account writes to`"
            :choices="POLICIES"
            :disabled="!may"
            @keep="keep({ policy: { ...care.policy, [purpose]: $event as Policy } })" />.
          <template #depends>{{ openBy(purpose) ? `May be written to: ${openBy(purpose)}.` : "Nobody has an address yet." }}</template>
        </SetLine>
        <SetLine :fault="faults.consent_months">
          Who agreed has agreed
          <template v-if="care.consent_months">for</template>
          <WordPart
            :value="care.consent_months ?? null"
            type="number"
            label="Months for which consent is good"
            empty="until they take it back"
            :least="1"
            :most="120"
            :disabled="!may"
            @keep="keep({ consent_months: $event.trim() === '' ? null : Number($event) })" /><template v-if="care.consent_months">
            {{ care.consent_months === 1 ? "month" : "months" }}</template
          >.
          <template #depends
            ><template v-if="!care.consent_months">A number of months, if it runs out here.</template
            ><template v-else-if="!asksFirst">Counts where people are written to only after they agreed.</template
            ><template v-else-if="runOut"
              ><span class="gorse">{{ many(runOut, "person has", "people have") }} to be asked again</span>: the
              <RouterLink :to="{ name: 'starters' }">starter set</RouterLink> has a workflow for it.</template
            ><template v-else>Nobody’s has run out.</template></template
          >
        </SetLine>
        <SetLine :fault="faults.confirm_forms">
          What somebody agrees to on a form
          <WordPart
            :value="care.confirm_forms ? 'yes' : ''"
            label="What somebody agrees to on a form"
            :choices="CONFIRMS"
            :disabled="!may"
            @keep="keep({ confirm_forms: $event === 'yes' })" />{{ care.confirm_forms ? " by the link that is sent to them." : "." }}
          <template #depends
            >On every <RouterLink :to="{ name: 'forms' }">form</RouterLink>.<template v-if="care.confirm_forms">
              A workflow can start “when they agree”.</template
            ></template
          >
        </SetLine>
        <SetHead title="The ways out" />
        <SetLine :fault="faults.own_page_in_texts || faults.own_page_words">
          The link to their own page stands
          <WordPart
            :value="care.own_page_in_texts ?? 'every'"
            label="Which texts carry the link to the contact’s own page"
            :choices="IN_TEXTS"
            :disabled="!may"
            @keep="keep({ own_page_in_texts: $event as 'every' })" />
          and in all else that is read, after
          <WordPart
            :value="care.own_page_words ?? ''"
            label="Words before the link"
            empty="Your choices"
            :most="60"
            :disabled="!may"
            @keep="keep({ own_page_words: $event.trim() })" />.
          <template #depends
            >In a text it takes some 55 letters. Without words of your own, what is longer says “What you hear from us, and how”.</template
          >
        </SetLine>
        <SetLine :fault="faults.words_out">
          Who texts stop, quit, end, cancel, unsubscribe or opt out hears no more; so does who texts
          <WordPart
            :value="(care.words_out ?? []).join(', ')"
            label="Words of your own that opt out"
            empty="no other word"
            :most="400"
            :disabled="!may"
            @keep="keep({ words_out: cut($event) })" />.
          <template #depends>Whatever else they write that means it counts, too: any reasonable way (47 CFR 64.1200(a)(10)).</template>
        </SetLine>
        <SetLine :fault="faults.words_help">
          Who texts help or info is answered at once; so is who texts
          <WordPart
            :value="(care.words_help ?? []).join(', ')"
            label="Words of your own that ask for help"
            empty="no other word"
            :most="400"
            :disabled="!may"
            @keep="keep({ words_help: cut($event) })" />.
        </SetLine>
        <SetLine :fault="faults.help_says">
          They are told
          <WordPart
            :value="care.help_says ?? ''"
            label="What who asks for help is told"
            empty="the business’s name and telephone"
            :most="200"
            long
            :disabled="!may"
            @keep="keep({ help_says: $event.trim() })" />, and how to decide what they hear.
          <template #depends>The business’s name stands before it where it does not say it.</template>
        </SetLine>
        <section v-for="[purpose, words] in PURPOSES" :key="purpose">
          <h2>{{ words }}</h2>
          <DataTable caption="Consent by channel" :rows="of(purpose)" :columns="COLUMNS">
            <template #channel="{ item: one }">{{ one.channel }}</template>
            <template #with_an_address="{ item: one }">{{ number(one.reachable) }}</template>
            <template #agreed="{ item: one }">{{ number(one.given) }}</template>
            <template #run_out="{ item: one }">{{ number(one.run_out) }}</template>
            <template #opted_out="{ item: one }">{{ number(one.withdrawn) }}</template>
            <template #asked_no_answer="{ item: one }">{{ number(one.asked) }}</template>
            <template #said_nothing="{ item: one }">{{ number(one.nothing) }}</template>
            <template #may_be_written_to="{ item: one }"
              ><strong>{{ number(open(one)) }}</strong></template
            >
          </DataTable>
        </section>
        <p class="soft more">
          Every message is decided by this when its line is reached, and once more when it is handed over. Proof for one person is on their
          page.
        </p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
section {
  margin-top: 22px;
}
.more {
  margin-top: 22px;
  max-width: 46rem;
}
</style>
