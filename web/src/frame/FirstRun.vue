<script setup lang="ts">
/** The first run: who opens the link that was printed makes the practice and themselves, and goes on to the first account. */
import { reactive } from "vue";
import { useQueryClient } from "@tanstack/vue-query";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const cache = useQueryClient();
const router = useRouter();
const given = reactive({ practice: "", name: "", email: "", password: "" });
const { pending, fault, faults, act } = usePending({ here: true, fields: ["practice", "name", "email", "password"] });
const submit = () =>
  act(async () => {
    const session = await ok(api.POST("/api/session/first", { body: { ...given, key: window.location.hash.slice(1) } }));
    await router.replace({ name: "accounts", query: { ask: "new" } });
    cache.setQueryData(["session"], session);
  });
</script>

<template>
  <main class="in">
    <h1>Bluffside</h1>
    <p class="lead">Nobody can sign in yet. You are the first: your practice, and you as its consultant.</p>
    <form @submit.prevent="submit">
      <FormRow label="What is your practice called?" :fault="faults.practice"
        ><BFormInput v-model="given.practice" required maxlength="120" autofocus
      /></FormRow>
      <FormRow label="What are you called?" :fault="faults.name"
        ><BFormInput v-model="given.name" autocomplete="name" required maxlength="120"
      /></FormRow>
      <FormRow label="Email" :fault="faults.email"
        ><BFormInput v-model="given.email" type="email" autocomplete="username" required maxlength="254"
      /></FormRow>
      <FormRow label="Password" :fault="faults.password" help="Ten letters or more"
        ><BFormInput v-model="given.password" type="password" autocomplete="new-password" required minlength="10" maxlength="200"
      /></FormRow>
      <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
      <BButton type="submit" variant="primary" :disabled="pending">Begin</BButton>
    </form>
  </main>
</template>

<style scoped>
.in {
  max-width: 26rem;
  margin: 10vh auto 0;
  padding: 0 20px;
}
form {
  display: grid;
  gap: 14px;
  justify-items: start;
  border-top: 1px solid var(--ink);
  padding-top: 18px;
}
.form-row,
input {
  width: 100%;
}
</style>
