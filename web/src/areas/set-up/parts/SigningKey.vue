<script setup lang="ts">
/** The key that requests are signed by, for whoever receives them: it is shown once, when it is made. */
import { useClipboard } from "@vueuse/core";
import { ref } from "vue";

import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { sure } from "@/ui/sure";
import { usePending } from "@/ui/usePending";

defineProps<{ may: boolean }>();
const account = useAccount();
const touched = useTouched();
const { act } = usePending();
const made = ref("");
const { copy, copied } = useClipboard({ source: made, legacy: true });
const make = () =>
  sure({
    title: "Make a new key?",
    words: "Requests are signed by the new one from now on. Whoever checks their signatures is to be given it: it is shown once.",
    act: "Make a new key",
    yes: () =>
      act(async () => {
        const call = api.POST("/api/accounts/{account}/set-up/connections/signing-key", { params: { path: { account: account.value } } });
        made.value = (await ok(call)).key;
        void touched("/set-up/changes");
      }),
  });
</script>

<template>
  <h2>How others know our requests</h2>
  <p class="serif">
    Each request is signed by the Standard Webhooks specification (webhook-id, webhook-timestamp, webhook-signature), so that whoever
    receives it can tell that it is ours, and one that comes twice.
  </p>
  <p v-if="made" class="row" role="status">
    <code>{{ made }}</code> <BButton variant="link" class="small" @click="copy()">{{ copied ? "copied" : "copy" }}</BButton>
    <small class="soft">shown this once</small>
  </p>
  <BButton v-else-if="may" variant="link" @click="make">Make a key to check them by…</BButton>
</template>

<style scoped>
h2 {
  font-size: 19px;
  margin-top: 26px;
}
p.serif {
  font-size: 16px;
  max-width: 46rem;
}
code {
  overflow-wrap: anywhere;
}
</style>
