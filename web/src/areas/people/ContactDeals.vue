<script setup lang="ts">
/** A contact's deals: what each is worth, where it stands, what happens next; moved, won or lost; who moved it when. */
import { computed, defineAsyncComponent, ref } from "vue";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import DealSentence from "@/shared/deals/DealSentence.vue";
import { useMoving, type To } from "@/shared/deals/useMoving";
import { whatNext, whenNext } from "@/shared/deals/nextWords";
import ReadState from "@/ui/ReadState.vue";
import { many, money } from "@/ui/words";

const NewDealAsk = defineAsyncComponent(() => import("@/shared/deals/NewDealAsk.vue"));
const LostAsk = defineAsyncComponent(() => import("@/shared/deals/LostAsk.vue"));
type One = Schemas["ContactDealOut"];
const props = defineProps<{ contact: Schemas["ContactRow"]; may: boolean }>();
const { data: details } = useAccountDetails();
const { data: all, ...read } = useRead("/contacts/{contact_id}/deals", () => ({ path: { contact_id: props.contact.id } }), { live: true });
const { move, pending } = useMoving();
const now = computed(() => details.value?.local_now ?? "");
const open = computed(() => all.value?.deals.filter((one) => one.state === "open") ?? []);
const closed = computed(() => all.value?.deals.filter((one) => one.state !== "open") ?? []);
const asking = ref(false);
const losing = ref<One>();
const worth = (one: One) => money(Number(one.value), all.value?.currency ?? "GBP");
const moved = (one: Schemas["DealMoveOut"]) =>
  `${one.at}, ${one.by}: ${one.state === "open" ? `from ${one.out_of} to ${one.stage}` : one.state}${one.back ? ", taken back" : ""}`;
const about = (one: One) => ({ id: one.id, contact: props.contact.name, stage: one.stage });
async function go(one: One, to: To) {
  losing.value = undefined;
  await move([about(one)], to);
}
</script>

<template>
  <h2>Deals</h2>
  <ReadState :of="read" what="Deals">
    <div v-for="one in open" :key="one.id" class="note deal">
      <DealSentence
        :deal="one"
        :stages="one.stages"
        :owners="all?.owners ?? []"
        :may="may"
        :busy="pending"
        @move="go(one, { stage: $event })" />
      <p class="small">
        Next: <b :class="{ thrift: one.next.sort === 'nothing' }">{{ whatNext(one.next) }}</b>{{
          whenNext(one.next, "later", now) ? `, ${whenNext(one.next, "later", now)}` : ""
        }}
      </p>
      <p v-if="may" class="small acts">
        <BButton variant="link" :aria-label="`Won: ${one.name}`" :disabled="pending" @click="go(one, { state: 'won' })">Won</BButton>
        <RouterLink :to="{ name: 'deal', params: { deal: one.id } }" :aria-label="`Its page: ${one.name}`">Its page</RouterLink>
        <BButton variant="link" :aria-label="`Lost… ${one.name}`" :disabled="pending" @click="losing = one">Lost…</BButton>
      </p>
      <details v-if="one.moves.length">
        <summary class="soft small">Moved {{ many(one.moves.length, "time") }}, made {{ one.made }}</summary>
        <p v-for="(each, n) in one.moves" :key="n" class="small soft">{{ moved(each) }}</p>
      </details>
    </div>
    <p v-if="all && !open.length" class="soft">None open.</p>
    <details v-if="closed.length">
      <summary class="soft">{{ many(closed.length, "deal") }} closed</summary>
      <p v-for="one in closed" :key="one.id" class="small soft">
        {{ one.name || one.pipeline }}, {{ worth(one) }}: {{ one.state }}{{ one.why ? `, ${one.why}` : "" }}
        <BButton
          v-if="may"
          variant="link"
          :aria-label="`Open again: ${one.name}`"
          :disabled="pending"
          @click="go(one, { state: 'open', again: true })"
          >open again</BButton
        >
      </p>
    </details>
    <p v-if="may && all?.pipeline"><BButton variant="outline-primary" @click="asking = true">New deal…</BButton></p>
  </ReadState>
  <NewDealAsk
    v-if="asking && all"
    :pipeline="all.pipeline"
    :stages="all.stages"
    :currency="all.currency"
    :contact="contact.id"
    :contact-name="contact.name"
    @close="asking = false"
    @done="asking = false" />
  <LostAsk
    v-if="losing"
    :whom="contact.name"
    :reasons="losing.reasons"
    @close="losing = undefined"
    @lost="losing && go(losing, { state: 'lost', why: $event })" />
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
.deal p {
  margin: 0 0 4px;
}
.acts {
  display: flex;
  gap: 12px;
}
</style>
