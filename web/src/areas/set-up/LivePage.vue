<script setup lang="ts">
/** Going live: what is still missing, and the one act from which on messages reach everybody. */
import { computed } from "vue";

import { api, ok } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const account = useAccount();
const touched = useTouched();
const may = useMay();
const { data: live, ...liveRead } = useRead("/set-up/live", undefined, { live: true });
const { data: held } = useRead("/sending/held-back", undefined, { live: true });
const answered = useAnswered("/set-up/live");
const { pending, act } = usePending();
const needed = computed(() => live.value?.missing.filter((one) => one.needed) ?? []);
const waiting = computed(() => held.value?.reduce((sum, one) => sum + one.how_many, 0) ?? 0);
function goLive() {
  sure({
    title: "Let this account go live?",
    words: `From then on its messages reach everybody. ${waiting.value ? `${many(waiting.value, "message has", "messages have")} been held meanwhile: nothing of it goes by itself, it is listed, and you decide about each line.` : "Nothing was held meanwhile."}`,
    act: "Go live",
    yes: async () => {
      const path = { account: account.value };
      const done = await act(async () => answered(await ok(api.POST("/api/accounts/{account}/set-up/live", { params: { path } }))));
      if (done) tell("The account is live.");
      await touched("everything");
      return done;
    },
  });
}
</script>

<template>
  <div class="page">
    <PageHead title="Going live" :about="live?.live ? (live.since ? `live since ${live.since}` : 'live') : 'not live yet'"
      ><BButton v-if="live && !live.live && may('set-up')" variant="primary" :disabled="pending || !!needed.length" @click="goLive"
        >Go live…</BButton
      ></PageHead
    >
    <ReadState :of="liveRead" what="Whether it is live">
      <template v-if="live">
        <p class="lead">
          {{
            live.live
              ? "Its messages reach everybody they are meant for."
              : `Until it goes live, its messages reach your own team alone. For everybody else they are held, ${waiting ? `${many(waiting, "message", "messages")} so far` : "and nothing is held so far"}.`
          }}
          <RouterLink v-if="waiting" :to="{ name: 'aside' }">What is held</RouterLink>
        </p>
        <ul v-if="live.missing.length">
          <li v-for="one in live.missing" :key="one.words">
            <StateMark :is="one.needed ? 'must' : 'waits'" />
            <span class="serif">{{ one.words }}</span>
            <RouterLink :to="{ name: one.page }" :aria-label="`Set it: ${one.words}`">Set it</RouterLink>
          </li>
        </ul>
        <EmptyState v-else>Nothing is missing.</EmptyState>
        <p v-if="needed.length && !live.live" class="soft">What is marked <StateMark is="must" /> must be there before it can send.</p>
      </template>
    </ReadState>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 14px 0;
  border-top: 1px solid var(--ink);
  max-width: 52rem;
}
li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
  padding: 8px 0;
}
li .serif {
  flex: 1;
  font-size: 17px;
}
</style>
