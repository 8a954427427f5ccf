<script setup lang="ts">
/** From the link that was mailed: a new password. Every session there was has ended with it. */
import { ref } from "vue";

import { came, keyOfLink, way } from "@/api/signingIn";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import DoorPage from "./DoorPage.vue";

const password = ref("");
const done = ref(false);
const { pending, fault, faults, act } = usePending({ here: true, fields: ["password"] });
const TOO_OLD = "This link has run out, or was used. Ask for another where one signs in.";
const submit = () =>
  act(async () => {
    const body = { key: keyOfLink(), password: password.value };
    await came(way.POST("/_allauth/browser/v1/auth/password/reset", { body }));
    done.value = true;
  });
</script>

<template>
  <DoorPage lead="A new password.">
    <form v-if="!done" @submit.prevent="submit">
      <FormRow label="New password" :fault="faults.password" help="Ten letters or more"
        ><BFormInput v-model="password" type="password" autocomplete="new-password" required minlength="10" maxlength="200" autofocus
      /></FormRow>
      <p v-if="fault && !faults.password" class="fault" role="alert">{{ faults.key ? TOO_OLD : fault }}</p>
      <BButton type="submit" variant="primary" :disabled="pending">Set it</BButton>
    </form>
    <p v-else role="status">Your new password is set, and wherever you were signed in, you are no more.</p>
    <p><a href="/">Sign in</a></p>
  </DoorPage>
</template>
