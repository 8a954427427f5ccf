<script setup lang="ts">
/** Somebody whom the account may not know writes to its number or address. */
import { reactive, ref } from "vue";

import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const account = useAccount();
const { data: details } = useAccountDetails();
const { pending, act } = usePending();
const unknown = reactive({ channel: "text" as "text" | "email", address: "", name: "", text: "" });
const answer = ref("");
async function sayAsStranger() {
  answer.value = "";
  await act(async () => {
    answer.value = (
      await ok(api.POST("/api/accounts/{account}/outside-stranger", { params: { path: { account: account.value } }, body: { ...unknown } }))
    ).words;
    unknown.text = "";
  });
}
</script>

<template>
  <section class="device" aria-label="Somebody nobody knows">
    <div class="row head">
      <h2>Somebody nobody knows</h2>
      <span class="soft">writes to the account’s number or address</span>
    </div>
    <form class="ad" @submit.prevent="sayAsStranger">
      <p class="row">
        <BFormRadio v-model="unknown.channel" value="text" name="unknown-channel">by text</BFormRadio
        ><BFormRadio v-model="unknown.channel" value="email" name="unknown-channel">by email</BFormRadio>
      </p>
      <FormRow :label="unknown.channel === 'text' ? 'From the number' : 'From the address'"
        ><BFormInput
          v-model.trim="unknown.address"
          required
          :placeholder="unknown.channel === 'text' ? (details?.example_number ?? '') : 'somebody@example.com'"
      /></FormRow>
      <FormRow v-if="unknown.channel === 'email'" label="Their name"><BFormInput v-model="unknown.name" /></FormRow>
      <FormRow label="What they write"><BFormTextarea v-model="unknown.text" rows="3" required maxlength="2000" /></FormRow>
      <p class="row">
        <BButton variant="primary" type="submit" :disabled="pending">Send it</BButton
        ><span role="status" class="soft"
          >{{ answer
          }}<template v-if="answer.startsWith('Kept apart')">
            See <RouterLink :to="{ name: 'words' }">incoming words</RouterLink>.</template
          ></span
        >
      </p>
    </form>
  </section>
</template>
