<script setup lang="ts">
/** Signing in: email and password, or a passkey in their place; then a second step, where somebody has one. */
import { nextTick, ref, useTemplateRef } from "vue";

import { came, way, type Outcome } from "@/api/signingIn";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import { isAtAName, knowsPasskeys, signInByPasskey, stepByPasskey } from "@/shared/signing-in/passkeys";

defineProps<{ words?: string }>();
const emit = defineEmits<{ done: [] }>();
const email = ref("");
const password = ref("");
const code = ref("");
const step = ref(false);
const said = ref("");
const codeRow = useTemplateRef<{ $el: HTMLElement }>("code");
const { pending, fault, act } = usePending({ here: true });
const passkeys = knowsPasskeys() && isAtAName();

async function go(outcome: Outcome) {
  said.value = "";
  if (outcome.status === 200) return emit("done");
  if (outcome.pending.includes("mfa_authenticate")) {
    step.value = true;
    password.value = "";
    await nextTick();
    codeRow.value?.$el.querySelector("input")?.focus();
  } else if (outcome.pending.includes("verify_email"))
    said.value = "Say first that this address is yours, by the link that was mailed to it just now.";
  else throw new Error("That took too long. Begin again.");
}
const byPassword = () =>
  act(async () => go(await came(way.POST("/_allauth/browser/v1/auth/login", { body: { email: email.value, password: password.value } }))));
const byCode = () =>
  act(async () => {
    const outcome = await came(way.POST("/_allauth/browser/v1/auth/2fa/authenticate", { body: { code: code.value.replaceAll(" ", "") } }));
    step.value = outcome.status === 200;
    await go(outcome);
  });
const NOT_USED = "No passkey was used. Try again, or sign in another way.";
const byPasskey = (how: typeof signInByPasskey) =>
  act(async () => {
    const outcome = await how().catch((error: unknown) => {
      throw error instanceof DOMException ? new Error(NOT_USED) : error;
    });
    await go(outcome);
  });
</script>

<template>
  <form v-if="!step" @submit.prevent="byPassword">
    <FormRow label="Email"><BFormInput v-model.trim="email" type="email" autocomplete="username" required autofocus /></FormRow>
    <FormRow label="Password"><BFormInput v-model="password" type="password" autocomplete="current-password" required /></FormRow>
    <p v-if="fault || said" :class="fault ? 'fault' : 'soft'" role="alert">{{ fault || said }}</p>
    <div class="row">
      <BButton type="submit" variant="primary" :disabled="pending">{{ words || "Sign in" }}</BButton>
      <BButton v-if="passkeys" variant="link" :disabled="pending" @click="byPasskey(signInByPasskey)">With a passkey</BButton>
    </div>
  </form>
  <form v-else @submit.prevent="byCode">
    <FormRow ref="code" label="Code" help="Of your authenticator app, or one of your recovery codes"
      ><BFormInput v-model="code" inputmode="numeric" autocomplete="one-time-code" required maxlength="20"
    /></FormRow>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <div class="row">
      <BButton type="submit" variant="primary" :disabled="pending">{{ words || "Sign in" }}</BButton>
      <BButton v-if="passkeys" variant="link" :disabled="pending" @click="byPasskey(stepByPasskey)">With a passkey</BButton>
      <BButton variant="link" @click="step = false">As somebody else</BButton>
    </div>
    <p class="soft small">Lost both? A consultant of your practice can let you in with your password alone.</p>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
  justify-items: start;
}
.form-row,
input {
  width: 100%;
}
p {
  margin: 0;
}
</style>
