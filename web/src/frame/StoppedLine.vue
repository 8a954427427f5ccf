<script setup lang="ts">
/** On every page of an account whose sending is stopped: since when, by whom and why; and lifting it. */
import { computed, defineAsyncComponent, ref } from "vue";

import { useRead, useTouched } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const Ask = defineAsyncComponent(() => import("@/ui/Ask.vue"));

const account = useAccount();
const { data: details } = useAccountDetails();
const touched = useTouched();
const { pending, act } = usePending();
const lifting = ref(false);
const { data } = useRead("/sending/held-back", undefined, { live: true, enabled: () => lifting.value });
const held = computed(() => data.value?.reduce((sum, one) => sum + one.how_many, 0) ?? 0);
async function lift() {
  const done = await act(() => ok(api.POST("/api/accounts/{account}/sending/lift", { params: { path: { account: account.value } } })));
  if (done) lifting.value = false;
  await touched("everything");
}
</script>

<template>
  <p v-if="details?.stopped" class="line" role="alert">
    <strong>■ All sending is stopped</strong> {{ details.stopped }}. Nothing goes out.
    <RouterLink :to="{ name: 'aside' }">What fell due</RouterLink>
    <BButton v-if="details.rights.includes('workflows')" variant="link" @click="lifting = true">Lift it…</BButton>
  </p>
  <p v-else-if="details?.trying_out" class="line trying" role="status">
    <strong>◷ Not live yet.</strong> Messages reach your own team alone.
    <RouterLink v-if="details.rights.includes('set-up')" :to="{ name: 'live' }">What is still missing</RouterLink>
  </p>
  <Ask v-if="lifting" v-slot="{ close }" title="Let this account send again" @close="lifting = false">
    <p>
      {{
        held
          ? `${many(held, "message has", "messages have")} fallen due meanwhile. Nothing of it goes by itself: it is listed, and you decide about each line.`
          : "Nothing has fallen due meanwhile."
      }}
      What falls due from now on goes as usual.
    </p>
    <div class="actions">
      <BButton variant="primary" :disabled="pending" autofocus @click="lift">Lift the stop</BButton
      ><BButton variant="link" @click="close">Not now</BButton>
    </div>
  </Ask>
</template>

<style scoped>
.line {
  margin: 0;
  padding: 9px 28px;
  color: var(--rust);
  background: var(--paper);
  border-bottom: 2px solid var(--rust);
  font-size: 15px;
}
.line.trying {
  color: var(--gorse);
  border-bottom: 1px solid var(--rule);
}
.line a,
.line button {
  margin-left: 14px;
}
@media (max-width: 640px) {
  .line {
    padding: 9px 16px;
  }
}
</style>
