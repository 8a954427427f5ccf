<script setup lang="ts">
/** The address one signs in with, and one's password: each changed in place. */
import { ref } from "vue";

import { ApiError } from "@/api/client";
import { came, way } from "@/api/signingIn";
import SetLine from "@/shared/settings/SetLine.vue";
import { proved } from "@/shared/signing-in/proving";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

defineProps<{ email: string }>();
const open = ref<"email" | "password" | "">("");
const address = ref("");
const old = ref("");
const fresh = ref("");
const { pending, fault, faults, act } = usePending({ here: true, fields: ["email", "current_password", "new_password"] });
function show(which: typeof open.value) {
  open.value = which;
  address.value = old.value = fresh.value = fault.value = "";
  faults.value = {};
}
async function changeEmail() {
  const body = { email: address.value };
  if (!(await act(() => proved(() => came(way.POST("/_allauth/browser/v1/account/email", { body })))))) return;
  tell(`A link is on its way to ${address.value}. Open it, and you sign in with that address from then on.`);
  show("");
}
async function changePassword() {
  const body = { current_password: old.value, new_password: fresh.value };
  const done = await act(async () => {
    const { status } = await came(way.POST("/_allauth/browser/v1/account/password/change", { body }));
    if (status === 401) throw new ApiError("You are signed out.", 401);
  });
  if (!done) return;
  tell("Your password is changed. Wherever else you were signed in, you are no more.");
  show("");
}
</script>

<template>
  <SetLine>
    I sign in as {{ email }}.
    <BButton v-if="open !== 'email'" variant="link" class="small" @click="show('email')">Another address</BButton>
    <form v-else class="sans" @submit.prevent="changeEmail">
      <FormRow label="New address" :fault="faults.email" help="A link is mailed there first"
        ><BFormInput v-model.trim="address" type="email" required maxlength="254" autofocus
      /></FormRow>
      <div class="row">
        <BButton type="submit" variant="outline-primary" :disabled="pending">Mail the link</BButton
        ><BButton variant="link" @click="show('')">Not now</BButton>
      </div>
      <p v-if="fault && !faults.email" class="fault" role="alert">{{ fault }}</p>
    </form>
    <template #depends>Invitations, new passwords, and what happens to your way in are mailed to it.</template>
  </SetLine>
  <SetLine>
    I have a password.
    <BButton v-if="open !== 'password'" variant="link" class="small" @click="show('password')">Another password</BButton>
    <form v-else class="sans" @submit.prevent="changePassword">
      <FormRow label="Password now" :fault="faults.current_password"
        ><BFormInput v-model="old" type="password" autocomplete="current-password" required autofocus
      /></FormRow>
      <FormRow label="New password" :fault="faults.new_password" help="Ten letters or more"
        ><BFormInput v-model="fresh" type="password" autocomplete="new-password" required minlength="10" maxlength="200"
      /></FormRow>
      <div class="row">
        <BButton type="submit" variant="outline-primary" :disabled="pending">Change it</BButton
        ><BButton variant="link" @click="show('')">Not now</BButton>
      </div>
      <p v-if="fault && !faults.current_password && !faults.new_password" class="fault" role="alert">{{ fault }}</p>
    </form>
    <template #depends>With a new one, every other place you are signed in at ends.</template>
  </SetLine>
</template>

<style scoped>
form {
  display: grid;
  gap: 8px;
  justify-items: start;
  font-size: 15px;
  padding: 4px 0 8px;
}
</style>
