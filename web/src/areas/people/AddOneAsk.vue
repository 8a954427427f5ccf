<script setup lang="ts">
/** One person typed in, who is then opened. */
import { reactive } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

defineEmits<{ close: [] }>();
const account = useAccount();
const router = useRouter();
const touched = useTouched();
const fields = reactive({ first_name: "", last_name: "", email: "", mobile: "" });
const { pending, faults, act } = usePending({ fields: ["first_name", "last_name", "email", "mobile"] });
async function add() {
  const done = await act(async () => {
    const made = await ok(
      api.POST("/api/accounts/{account}/contacts", { params: { path: { account: account.value } }, body: { ...fields } }),
    );
    void router.push({ name: "contact", params: { contact: made.id } });
  });
  if (done) void touched("everything");
}
</script>

<template>
  <Ask v-slot="{ close }" title="Add one person" @close="$emit('close')">
    <form @submit.prevent="add">
      <FormRow label="First name" :fault="faults.first_name"><BFormInput v-model="fields.first_name" autofocus /></FormRow>
      <FormRow label="Last name" :fault="faults.last_name"><BFormInput v-model="fields.last_name" /></FormRow>
      <FormRow label="Email" :fault="faults.email"><BFormInput v-model="fields.email" /></FormRow>
      <FormRow label="Mobile" :fault="faults.mobile"><BFormInput v-model="fields.mobile" /></FormRow>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Add</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
input {
  width: 100%;
}
.actions,
.fault {
  grid-column: 1 / -1;
}
</style>
