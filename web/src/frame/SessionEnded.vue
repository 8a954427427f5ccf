<script setup lang="ts">
/** The session has ended while a page was open: it says so over the page, which keeps what was typed, and goes on after
 * signing in. */
import { useQueryClient } from "@tanstack/vue-query";
import { ref, watch } from "vue";

import { sessionEnded, signedOut } from "@/api/client";
import { useSession } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import FormRow from "@/ui/FormRow.vue";

const cache = useQueryClient();
const { session, signIn } = useSession();
const email = ref("");
const password = ref("");
const { pending, fault, act } = usePending({ here: true });
watch(sessionEnded, () => (password.value = fault.value = ""));
async function again() {
  const was = session.value?.name;
  if (!(await act(() => signIn(email.value, password.value)))) return;
  if (session.value?.name !== was) return location.reload(); // somebody else: nothing of the other's stays on the page
  sessionEnded.value = signedOut.value = false;
  await cache.invalidateQueries();
  tell("You are signed in again. What you typed is still here; press once more what was refused.");
}
</script>

<template>
  <Ask v-if="sessionEnded" title="You have been signed out" @close="sessionEnded = false">
    <p>Nothing you typed is lost: it stands on the page behind. Sign in to go on.</p>
    <form @submit.prevent="again">
      <FormRow label="Email" class="wide"
        ><BFormInput v-model.trim="email" type="email" autocomplete="username" required autofocus
      /></FormRow>
      <FormRow label="Password" class="wide"
        ><BFormInput v-model="password" type="password" autocomplete="current-password" required
      /></FormRow>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <div class="actions"><BButton type="submit" variant="primary" :disabled="pending">Sign in and go on</BButton></div>
    </form>
  </Ask>
</template>

<style scoped>
.wide,
.wide input {
  width: 100%;
}
.wide {
  margin-top: 8px;
}
</style>
