<script setup lang="ts">
import { ref } from "vue";

import { came, way } from "@/api/signingIn";
import { useSession } from "@/queries/session";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import DoorPage from "./DoorPage.vue";
import SignInForm from "./SignInForm.vue";

const { session, signedIn } = useSession();
const forgotten = ref(false);
const email = ref("");
const asked = ref(false);
const { pending, fault, act } = usePending({ here: true });
const ask = () =>
  act(async () => {
    await came(way.POST("/_allauth/browser/v1/auth/password/request", { body: { email: email.value } }));
    asked.value = true;
  });
</script>

<template>
  <DoorPage :lead="forgotten ? 'A new password.' : 'Follow-up, written down as you would on paper, and carried out on time.'">
    <template v-if="!forgotten">
      <SignInForm @done="signedIn" />
      <p class="below"><BButton variant="link" @click="forgotten = true">Forgotten your password?</BButton></p>
    </template>
    <template v-else>
      <form v-if="!asked" @submit.prevent="ask">
        <FormRow label="Email" help="If somebody signs in with it, a link is on its way there at once."
          ><BFormInput v-model.trim="email" type="email" autocomplete="username" required autofocus
        /></FormRow>
        <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
        <BButton type="submit" variant="primary" :disabled="pending">Mail me a link</BButton>
      </form>
      <p v-else role="status">
        If somebody signs in with {{ email }}, a link is on its way there. It holds for an hour, and for one new password.
      </p>
      <p class="below"><BButton variant="link" @click="forgotten = asked = false">Back to signing in</BButton></p>
    </template>
    <p v-if="session?.demo" class="soft small">
      In this demo, mail to those who work here stays here: <a href="/mailbox">the simulated mailbox</a>.
    </p>
  </DoorPage>
</template>

<style scoped>
.below {
  margin: 16px 0;
}
</style>
