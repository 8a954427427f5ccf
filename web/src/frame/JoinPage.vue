<script setup lang="ts">
/** From an invitation: who asks them in, to what; then their name and a password, or nothing but their yes. */
import { useQuery } from "@tanstack/vue-query";
import { reactive, ref } from "vue";

import { api, ok } from "@/api/client";
import { keyOfLink } from "@/api/signingIn";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";
import DoorPage from "./DoorPage.vue";

const key = keyOfLink();
const { data: invited, error } = useQuery({
  queryKey: ["invited"],
  queryFn: () => ok(api.POST("/api/session/invited", { body: { key } })),
  retry: false,
});
const given = reactive({ name: "", password: "" });
const joined = ref(false);
const { pending, fault, faults, act } = usePending({ here: true, fields: ["name", "password"] });
const join = () =>
  act(async () => {
    await ok(api.POST("/api/session/join", { body: { key, ...given } }));
    if (invited.value?.known) joined.value = true;
    else location.assign("/");
  });
</script>

<template>
  <DoorPage :lead="invited ? `${invited.by || 'Somebody'} asks you in to ${invited.to}, as ${invited.role}.` : 'An invitation.'">
    <p v-if="error" class="fault" role="alert">{{ error.message }}</p>
    <p v-else-if="joined" role="status">{{ invited?.to }} is yours to enter. <a href="/">To your accounts</a></p>
    <form v-else-if="invited" @submit.prevent="join">
      <p v-if="invited.known">You sign in as {{ invited.email }} already, and go on doing so.</p>
      <template v-else>
        <FormRow label="What are you called?" :fault="faults.name"
          ><BFormInput v-model="given.name" autocomplete="name" required maxlength="120" autofocus
        /></FormRow>
        <FormRow label="Email"><BFormInput :model-value="invited.email" type="email" autocomplete="username" readonly /></FormRow>
        <FormRow label="Password" :fault="faults.password" help="Ten letters or more"
          ><BFormInput v-model="given.password" type="password" autocomplete="new-password" required minlength="10" maxlength="200"
        /></FormRow>
      </template>
      <p v-if="fault && !faults.name && !faults.password" class="fault" role="alert">{{ fault }}</p>
      <BButton type="submit" variant="primary" :disabled="pending">Come in</BButton>
    </form>
  </DoorPage>
</template>
