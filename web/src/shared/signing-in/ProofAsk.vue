<script setup lang="ts">
/** Asks somebody who is signed in to show once more who they are. */
import { computed, ref, watch } from "vue";

import { came, way } from "@/api/signingIn";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import { proof } from "./proving";

const typed = ref("");
const byCode = computed(() => !proof.value?.ways.includes("reauthenticate"));
const { pending, fault, act } = usePending({ here: true });
watch(proof, () => (typed.value = fault.value = ""));
const show = () =>
  act(async () => {
    if (byCode.value) await came(way.POST("/_allauth/browser/v1/auth/2fa/reauthenticate", { body: { code: typed.value } }));
    else await came(way.POST("/_allauth/browser/v1/auth/reauthenticate", { body: { password: typed.value } }));
    proof.value?.goOn(true);
  });
</script>

<template>
  <Ask v-if="proof" title="Is it you?" @close="proof?.goOn(false)">
    <form @submit.prevent="show">
      <FormRow :label="byCode ? 'Code of your authenticator app' : 'Your password'"
        ><BFormInput
          v-model="typed"
          :type="byCode ? 'text' : 'password'"
          :autocomplete="byCode ? 'one-time-code' : 'current-password'"
          required
          autofocus
      /></FormRow>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <div class="actions"><BButton type="submit" variant="primary" :disabled="pending">Go on</BButton></div>
    </form>
  </Ask>
</template>
