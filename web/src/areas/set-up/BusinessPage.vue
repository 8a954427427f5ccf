<script setup lang="ts">
/** The business: who it is and where, in sentences; each detail that messages merge says which workflows do. */
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { usePending } from "@/ui/usePending";
import { money } from "@/ui/words";
import OwnDetails from "./parts/OwnDetails.vue";
import OfWorkflows from "./parts/OfWorkflows.vue";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import ZonePart from "@/shared/settings/ZonePart.vue";
import { useKeeping } from "@/shared/settings/useKeeping";

type Business = Schemas["Business"];
const FIELDS = [
  "name",
  "trade",
  "zone",
  "region",
  "currency",
  "language",
  "postal_address",
  "phone",
  "web_page",
  "booking_link",
  "signature",
] as const;
const account = useAccount();
const touched = useTouched();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const { data: business, ...businessRead } = useRead("/set-up/business");
const { data: places, ...placesRead } = useRead("/set-up/places", undefined, { staleTime: Infinity });
const answered = useAnswered("/set-up/business");
const { faults, act } = usePending({ fields: [...FIELDS, "details"] });
const fault = (...names: string[]) =>
  names
    .map((name) => faults.value[name])
    .filter(Boolean)
    .join(" ");

const put = (body: Business) =>
  ok(api.PUT("/api/accounts/{account}/set-up/business", { params: { path: { account: account.value } }, body }));
const change = useKeeping();
function keep(parts: Partial<Business>) {
  const before = business.value;
  if (!before) return;
  change({
    show: () => answered({ ...before, ...parts }),
    keep: () => act(async () => answered(await put({ ...(business.value ?? before), ...parts }))),
    undo: async () => answered(await put(before)),
    after: () => touched("/set-up/business", "/set-up/changes", "/catalogue"),
  });
}
const choices = (of: { code: string; name: string }[] = []) => of.map((one) => ({ value: one.code, words: one.name }));
const { data: details } = useAccountDetails();
const from = computed(() => [details.value?.sender_email, details.value?.text_number].filter(Boolean).join(" and ") || "nobody yet");
const used = (path: string) => business.value?.depends.find((one) => one.path === path)?.workflows ?? [];
</script>

<template>
  <div class="page">
    <PageHead title="The business" about="what its messages, forms and pages say of it" />
    <ReadState :of="[businessRead, placesRead]" what="The business">
      <template v-if="business">
        <SetHead title="Who it is" first />
        <SetLine :fault="fault('name', 'trade')">
          <WordPart :value="business.name" label="Name" :most="120" :disabled="!may" @keep="keep({ name: $event })" />, in the trade of
          <WordPart
            :value="business.trade ?? ''"
            label="Trade"
            empty="what it does"
            :most="80"
            :disabled="!may"
            @keep="keep({ trade: $event })" />.
          <template #depends
            ><template v-if="used('account.name').length"
              >The name stands in messages of <OfWorkflows :of="used('account.name')" />.</template
            ></template
          >
        </SetLine>
        <SetLine :fault="fault('signature')">
          Messages are signed
          <WordPart
            :value="business.signature ?? ''"
            label="Signature"
            empty="nobody yet"
            :disabled="!may"
            @keep="keep({ signature: $event })" />.
          <template #depends
            ><template v-if="used('account.signature').length">In messages of <OfWorkflows :of="used('account.signature')" />.</template
            ><template v-else>No workflow signs with it.</template></template
          >
        </SetLine>
        <SetHead title="Where it is" />
        <SetLine :fault="fault('zone', 'region')">
          It lives by the clock of <ZonePart :value="business.zone" :disabled="!may" @keep="keep({ zone: $event.zone })" />, in
          <WordPart
            :value="business.region"
            label="Country"
            :choices="choices(places?.countries)"
            :disabled="!may"
            @keep="keep({ region: $event })" />.
          <template #depends>Hours, days and the times on every page; how numbers typed without a country are read.</template>
        </SetLine>
        <SetLine :fault="fault('postal_address')">
          Post reaches it at
          <WordPart
            :value="business.postal_address ?? ''"
            label="Postal address"
            empty="no address yet"
            :most="300"
            :disabled="!may"
            @keep="keep({ postal_address: $event })" />.
          <template #depends
            ><span :class="{ rust: !business.postal_address }">Stands under every email; commercial ones need it by law.</span></template
          >
        </SetLine>
        <SetHead title="How it is reached" />
        <SetLine :fault="fault('phone')">
          By telephone at
          <WordPart
            :value="business.number"
            label="Telephone"
            type="tel"
            empty="no number"
            :disabled="!may"
            @keep="keep({ phone: $event })" />.
          <template #depends
            ><template v-if="used('account.phone').length">In messages of <OfWorkflows :of="used('account.phone')" />.</template></template
          >
        </SetLine>
        <SetLine :fault="fault('web_page', 'booking_link')">
          On the web at
          <WordPart
            :value="business.web_page ?? ''"
            label="Web page"
            type="url"
            empty="no page"
            :disabled="!may"
            @keep="keep({ web_page: $event })" />; people book at
          <WordPart
            :value="business.booking_link ?? ''"
            label="Booking link"
            type="url"
            empty="no page"
            :disabled="!may"
            @keep="keep({ booking_link: $event })" />.
          <template #depends
            ><template v-if="used('account.booking_link').length"
              >The booking link is in messages of <OfWorkflows :of="used('account.booking_link')" />.</template
            ></template
          >
        </SetLine>
        <SetHead title="How it writes" />
        <SetLine>
          Its messages come from <RouterLink :to="{ name: 'senders' }">{{ from }}</RouterLink>.
          <template #depends>Each address is confirmed before it is used; numbers, speeds and domains are there, too.</template>
        </SetLine>
        <SetLine :fault="fault('language', 'currency')">
          In
          <WordPart
            :value="business.language"
            label="Language"
            :choices="choices(places?.languages)"
            :disabled="!may"
            @keep="keep({ language: $event })" />, and reckons in
          <WordPart
            :value="business.currency"
            label="Currency"
            :choices="choices(places?.currencies)"
            :disabled="!may"
            @keep="keep({ currency: $event })" />.
          <template #depends
            >How dates and times are written in messages, and which language its pages say they are in. Money is written
            {{ money(1204.5, business.currency) }}.</template
          >
        </SetLine>
        <OwnDetails
          :details="business.details ?? []"
          :depends="business.depends"
          :fault="fault('details')"
          :may="may"
          @keep="keep({ details: $event })" />
      </template>
    </ReadState>
  </div>
</template>
