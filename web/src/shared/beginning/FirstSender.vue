<script setup lang="ts">
/** The first address that an account's emails come from: typed, mailed a code, and confirmed by it. */
import { ref } from "vue";

import { api, ok } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ account: string }>();
const emit = defineEmits<{ done: [] }>();
const address = ref("");
const code = ref("");
const sender = ref(0);
const { pending, fault, faults, act } = usePending({ here: true, fields: ["address", "code"] });
const add = () =>
  act(async () => {
    const body = { channel: "email" as const, address: address.value, shown_as: "" };
    const now = await ok(api.POST("/api/accounts/{account}/set-up/senders", { params: { path: { account: props.account } }, body }));
    sender.value = now.senders.find((one) => !one.confirmed)?.id ?? 0;
  });
const confirm = () =>
  act(async () => {
    const path = { account: props.account, sender_id: sender.value };
    await ok(api.POST("/api/accounts/{account}/set-up/senders/{sender_id}/confirm", { params: { path }, body: { code: code.value } }));
    emit("done");
  });
</script>

<template>
  <form @submit.prevent="sender ? confirm() : add()">
    <FormRow v-if="!sender" label="Emails come from" :fault="faults.address" help="A code is mailed to it"
      ><BFormInput v-model.trim="address" type="email" required maxlength="254" autofocus
    /></FormRow>
    <FormRow v-else label="Code" :fault="faults.code" :help="`It was mailed to ${address}`"
      ><BFormInput v-model="code" inputmode="numeric" autocomplete="one-time-code" required maxlength="6" autofocus
    /></FormRow>
    <p v-if="fault && !faults.address && !faults.code" class="fault" role="alert">{{ fault }}</p>
    <div class="row">
      <BButton type="submit" variant="primary" :disabled="pending">{{ sender ? "Confirm" : "Mail the code" }}</BButton>
      <BButton variant="link" @click="emit('done')">Later, in Set-up</BButton>
    </div>
  </form>
</template>
