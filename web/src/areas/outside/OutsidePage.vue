<script setup lang="ts">
/** Outside: any contact's simulated phone and mailbox. Read what came, answer as them, follow a link; and the demo's clock. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import AdvertForm from "./AdvertForm.vue";
import OwnPhone from "./OwnPhone.vue";
import PhoneAndMailbox from "./PhoneAndMailbox.vue";
import StrangerForm from "./StrangerForm.vue";

const account = useAccount();
const { data: details } = useAccountDetails();
const mayDo = useMay();
const route = useRoute();
const router = useRouter();
const touched = useTouched();
const q = ref("");
const chosen = computed(() => Number(route.query.contact ?? 0));
const channel = ref<"text" | "email" | "other">("text");

const { data: devices, ...devicesRead } = useRead("/outside", () => ({ query: { q: q.value } }), {
  live: true,
  placeholderData: keepPreviousData,
});
const { data: device, ...deviceRead } = useRead("/outside/{contact_id}", () => ({ path: { contact_id: chosen.value } }), {
  live: true,
  enabled: () => chosen.value > 0,
});
/** One's own phone and mailbox, with the tests one sent to oneself. */
const isMine = computed(() => route.query.mine !== undefined);
const { data: mine, ...mineRead } = useRead("/outside/mine", undefined, { live: true, enabled: isMine });
/** The stand-in for an advert with a form of its own. */
const advert = computed(() => route.query.advert !== undefined);
const { data: sources, ...sourcesRead } = useRead("/lead-sources");
/** Somebody whom the account may not know. */
const stranger = computed(() => route.query.stranger !== undefined);
function show(contact: number) {
  void router.replace({ query: { contact } });
}

const { pending, act } = usePending();
async function move(hours: number) {
  await act(async () => {
    const answer = await ok(api.POST("/api/accounts/{account}/clock", { params: { path: { account: account.value } }, body: { hours } }));
    tell(`It is ${moment(answer.local_now)} now; ${many(answer.moments, "moment")} at which something was due went by.`);
  });
  void touched("everything");
}
</script>

<template>
  <div class="page">
    <PageHead title="Outside" about="Simulated phones and mailboxes: nothing here leaves this machine." />
    <div v-if="details && mayDo('clock')" class="row clock">
      <span
        >The clock stands at <strong>{{ moment(details.local_now) }}</strong>. Move it, for all accounts, and let happen what falls
        due:</span
      >
      <BButton variant="outline-primary" :disabled="pending" @click="move(0)">to what is due next here</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(1)">an hour on</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(24)">a day on</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(72)">three days on</BButton>
    </div>
    <ReadState :of="[devicesRead, sourcesRead]" what="Outside">
      <div class="two">
        <nav aria-label="Whose phone">
          <FormRow label="Whose phone and mailbox" class="wide"
            ><BFormInput v-model.trim="q" type="search" placeholder="search by name or number"
          /></FormRow>
          <p class="own" :class="{ on: isMine }">
            <BButton variant="link" @click="router.replace({ query: { mine: 1 } })">My own phone and mailbox</BButton>
          </p>
          <p v-if="sources?.length" class="own" :class="{ on: advert }">
            <BButton variant="link" @click="router.replace({ query: { advert: 1 } })">An advert with a form</BButton>
          </p>
          <p class="own" :class="{ on: stranger }">
            <BButton variant="link" @click="router.replace({ query: { stranger: 1 } })">Somebody nobody knows</BButton>
          </p>
          <ul>
            <li v-for="one in devices" :key="one.contact_id" :class="{ on: one.contact_id === chosen }">
              <BButton variant="link" @click="show(one.contact_id)">{{ one.contact }}</BButton><small class="soft">{{ one.last }}</small>
            </li>
          </ul>
          <p v-if="devices && !devices.length" class="soft">Nothing has come to anybody yet{{ q ? " of that name" : "" }}.</p>
        </nav>
        <ReadState :of="[deviceRead, mineRead]" what="This phone and mailbox">
          <OwnPhone v-if="isMine && mine" :mine="mine" />
          <AdvertForm v-else-if="advert && sources?.length" :sources="sources" />
          <StrangerForm v-else-if="stranger" />
          <PhoneAndMailbox v-else-if="device" v-model:channel="channel" :device="device" :moves-clock="!!details && mayDo('clock')" />
          <EmptyState v-else
            >Choose somebody. What the account sent them is on their phone and in their mailbox; what you write there comes back as their
            reply.</EmptyState
          >
        </ReadState>
      </div>
    </ReadState>
  </div>
</template>

<style scoped>
.clock {
  border: 1px solid var(--rule);
  border-left: 3px solid var(--gorse);
  background: var(--paper);
  padding: 9px 14px;
  margin: 12px 0 18px;
  gap: 8px 10px;
}
.two {
  display: grid;
  grid-template-columns: 260px minmax(0, 620px);
  gap: 40px;
}
.wide,
.wide input {
  width: 100%;
}
.own {
  margin: 10px 0 0;
  padding: 6px 8px;
  border-bottom: 1px solid var(--rule);
}
.own.on {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
ul {
  list-style: none;
  padding: 0;
  margin: 10px 0;
  max-height: 54vh;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  padding: 6px 8px;
  border-bottom: 1px solid var(--rule);
}
li button {
  text-decoration: none;
  font-family: var(--serif);
  font-size: 16px;
  text-align: left;
}
li.on {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
/* What stands beside the list: a phone, a mailbox, a form. */
.two :deep(.device) {
  border: 1px solid var(--rule);
  background: var(--paper);
}
.two :deep(.head) {
  padding: 12px 18px;
  border-bottom: 1px solid var(--rule);
}
.two :deep(.device form) {
  padding: 12px 18px;
  border-top: 1px solid var(--rule);
}
.two :deep(.device .head label > span) {
  display: inline;
}
.two :deep(.services) {
  padding: 6px 18px;
  border-bottom: 1px solid var(--rule);
}
.two :deep(.services p),
.two :deep(.device .services form) {
  margin: 5px 0;
  padding: 0;
  border: 0;
}
.two :deep(.thread) {
  height: 48vh;
  overflow: auto;
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.two :deep(article) {
  max-width: 82%;
  border-left: 2px solid var(--sea);
  padding: 2px 0 2px 12px;
  align-self: flex-start;
}
.two :deep(article.mine) {
  align-self: flex-end;
  border-left: 0;
  border-right: 2px solid var(--thrift);
  padding: 2px 12px 2px 0;
  text-align: right;
}
.two :deep(article.email) {
  max-width: 100%;
}
.two :deep(article p) {
  margin: 0;
  white-space: pre-line;
  font: 16px/1.45 var(--serif);
  overflow-wrap: anywhere;
}
.two :deep(article .entry) {
  display: grid;
  gap: 2px;
  justify-items: start;
  border-top: 1px solid var(--rule);
  margin-top: 8px;
  padding: 8px 0 4px;
}
.two :deep(.device .ad) {
  display: grid;
  gap: 10px;
  max-width: 26rem;
  border-top: 0;
}
.two :deep(.ad input:not([type="radio"])),
.two :deep(.ad select),
.two :deep(.ad textarea) {
  width: 100%;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: 1fr;
    gap: 16px;
  }
  ul {
    max-height: 22vh;
  }
}
</style>
