<script setup lang="ts">
/** The one stop: all sending of the account, at once, by one deliberate act. */
import { ref } from "vue";

import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { useMay, useTouched } from "@/queries/account";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import FormRow from "@/ui/FormRow.vue";

const account = useAccount();
const { data: details } = useAccountDetails();
const mayDo = useMay();
const touched = useTouched();
const { pending, act } = usePending();
const asking = ref(false);
const why = ref("");
async function stop() {
  const done = await act(() =>
    ok(api.POST("/api/accounts/{account}/sending/stop", { params: { path: { account: account.value } }, body: { why: why.value } })),
  );
  if (done) asking.value = false;
  await touched("everything");
}
</script>

<template>
  <BButton v-if="details && mayDo('workflows') && !details.stopped" variant="link" class="rust" @click="asking = true"
    >Stop all sending…</BButton
  >
  <Ask v-if="asking" v-slot="{ close }" title="Stop all sending of this account" @close="asking = false">
    <form @submit.prevent="stop">
      <p>
        Nothing more goes to anybody, by no workflow and by nobody’s hand, until it is lifted. What a carrier has already cannot be called
        back. Workflows go on counting time and hearing answers; whoever comes to a message stays there.
      </p>
      <p class="soft">When it is lifted, nothing goes by itself either: what fell due is listed, and you decide.</p>
      <FormRow label="Why? Everybody here reads it" class="wide"
        ><BFormInput v-model.trim="why" required maxlength="200" autofocus placeholder="the price in the second text is wrong"
      /></FormRow>
      <div class="actions">
        <BButton variant="link" class="stop" type="submit" :disabled="!why || pending">Stop all sending</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.wide,
.wide input {
  width: 100%;
}
.link.rust {
  color: var(--rust);
}
.stop {
  background: var(--rust);
  border-color: var(--rust);
}
</style>
