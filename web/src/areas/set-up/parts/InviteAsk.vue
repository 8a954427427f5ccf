<script setup lang="ts">
/** Somebody is asked in, with a role. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

defineProps<{ roles: { value: string; words: string }[] }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const answered = useAnswered("/set-up/team");
const touched = useTouched();
const email = ref("");
const role = ref<Schemas["InvitationIn"]["role"]>("team");
const { pending, faults, act } = usePending({ fields: ["email", "role"] });
async function invite() {
  const path = { account: account.value };
  const body = { email: email.value, role: role.value };
  const done = await act(async () =>
    answered(await ok(api.POST("/api/accounts/{account}/set-up/team/invitations", { params: { path }, body }))),
  );
  if (!done) return;
  tell(`${email.value} is invited: a link is on its way.`);
  void touched("/set-up/changes");
  emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" title="Invite somebody" @close="emit('close')">
    <form class="form" @submit.prevent="invite">
      <FormRow label="Email" :fault="faults.email" help="A link is mailed there. It holds for a week."
        ><BFormInput v-model.trim="email" type="email" required maxlength="254" autofocus
      /></FormRow>
      <FormRow label="Works as" :fault="faults.role"
        ><BFormSelect v-model="role"
          ><option v-for="one in roles" :key="one.value" :value="one.value">{{ one.words }}</option></BFormSelect
        ></FormRow
      >
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Invite</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
