<script setup lang="ts">
/** Another address or number that messages may come from. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

defineProps<{ first: boolean }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const { data: details } = useAccountDetails();
const answered = useAnswered("/set-up/senders");
const touched = useTouched();
const channel = ref<Schemas["SenderIn"]["channel"]>("email");
const address = ref("");
const shown = ref("");
const { pending, faults, act } = usePending({ fields: ["address"] });
async function add() {
  const path = { account: account.value };
  const body = { channel: channel.value, address: address.value, shown_as: channel.value === "email" ? shown.value : "" };
  const done = await act(async () => answered(await ok(api.POST("/api/accounts/{account}/set-up/senders", { params: { path }, body }))));
  if (!done) return;
  tell(channel.value === "email" ? `A code is on its way to ${address.value}.` : "The number is there.");
  void touched("/set-up/changes", "/set-up/live");
  emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" title="Another sender" @close="emit('close')">
    <form class="form" @submit.prevent="add">
      <FormRow label="Messages come from"
        ><BFormSelect v-model="channel"
          ><option value="email">an address: emails</option>
          <option value="text">a number: texts and voicemails</option></BFormSelect
        ></FormRow
      >
      <template v-if="channel === 'email'">
        <FormRow label="Address" :fault="faults.address" help="A code is mailed to it. Once you type that in, emails can come from it."
          ><BFormInput v-model.trim="address" type="email" required maxlength="254" autofocus
        /></FormRow>
        <FormRow label="Shown as"><BFormInput v-model="shown" maxlength="120" placeholder="the business" /></FormRow>
      </template>
      <FormRow v-else label="Number" :fault="faults.address"
        ><BFormInput v-model="address" type="tel" required maxlength="40" :placeholder="details?.example_number"
      /></FormRow>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Add it</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
