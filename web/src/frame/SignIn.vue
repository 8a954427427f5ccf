<script setup lang="ts">
import { ref } from "vue";

import { usePending } from "@/ui/usePending";
import { useSession } from "@/queries/session";
import FormRow from "@/ui/FormRow.vue";

const { signIn } = useSession();
const email = ref("");
const password = ref("");
const { pending, fault, act } = usePending({ here: true });
const submit = () => act(() => signIn(email.value, password.value));
</script>

<template>
  <main class="in">
    <h1>Bluffside</h1>
    <p class="lead">Follow-up, written down as you would on paper, and carried out on time.</p>
    <form @submit.prevent="submit">
      <FormRow label="Email"><BFormInput v-model="email" type="email" autocomplete="username" required autofocus /></FormRow>
      <FormRow label="Password"><BFormInput v-model="password" type="password" autocomplete="current-password" required /></FormRow>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <BButton type="submit" variant="primary" :disabled="pending">Sign in</BButton>
    </form>
  </main>
</template>

<style scoped>
.in {
  max-width: 24rem;
  margin: 14vh auto 0;
  padding: 0 20px;
}
form {
  display: grid;
  gap: 14px;
  justify-items: start;
  border-top: 1px solid var(--ink);
  padding-top: 18px;
}
label,
input {
  width: 100%;
}
</style>
