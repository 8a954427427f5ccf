<script setup lang="ts">
/** What came in from outside about people who are known, and waits for somebody to decide; of one contact, or of all. */
import { computed } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ contact?: number }>();
const account = useAccount();
const touched = useTouched();
const mayDo = useMay();
const may = computed(() => mayDo("people"));
const { data, ...reading } = useRead("/proposals", () => ({ query: props.contact ? { contact: props.contact } : {} }), { live: true });
const { pending, act } = usePending();
async function decide(proposal: number, did: "take" | "leave") {
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/proposals/{proposal_id}/{did}", {
        params: { path: { account: account.value, proposal_id: proposal, did } },
      }),
    ),
  );
  void touched("everything");
}
</script>

<template>
  <ReadState :of="reading" what="Changes to decide on">
    <section v-if="data?.length" class="decide" aria-label="To decide on">
      <h2>{{ many(data.length, "change") }} to decide on</h2>
      <p class="small soft">
        Somebody outside sent these. Until you take one up it changes nothing, and nothing is written to a new address.
      </p>
      <div v-for="one in data" :key="one.id" class="proposal">
        <div>
          <RouterLink v-if="!contact" class="serif" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{
            one.contact
          }}</RouterLink>
          {{ one.what }}: <strong>{{ one.value }}</strong><span v-if="one.now" class="soft"> instead of {{ one.now }}</span>
        </div>
        <div class="small soft">{{ one.source }}, {{ one.when }}</div>
        <p v-if="one.alone" class="small gorse">
          <StateMark is="waits" /> They have opted out: only they can take that back, on their own page or by texting START.
        </p>
        <p v-if="may" class="row">
          <BButton v-if="!one.alone" variant="outline-primary" :disabled="pending" @click="decide(one.id, 'take')">Take it up</BButton
          ><BButton variant="link" :disabled="pending" @click="decide(one.id, 'leave')">Leave it as it is</BButton>
        </p>
      </div>
    </section>
  </ReadState>
</template>

<style scoped>
.decide {
  margin-bottom: 26px;
}
.decide h2 {
  border-bottom: 1px solid var(--ink);
  padding-bottom: 5px;
  margin-bottom: 6px;
}
.proposal {
  padding: 9px 0;
  border-bottom: 1px solid var(--rule);
  overflow-wrap: anywhere;
}
.proposal p {
  margin: 6px 0 0;
}
</style>
