<script setup lang="ts">
/** The key that a connection asks for is put in, or taken away. It is kept sealed and never shown. */
import { ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const { of } = defineProps<{ of: Schemas["ConnectionOut"] }>();
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const answered = useAnswered("/set-up/connections");
const touched = useTouched();
const { pending, act } = usePending();
const key = ref("");
const header = ref(of.key_header || "Authorization");
async function keep(value: string) {
  const done = await act(async () => {
    const path = { account: account.value };
    const which = { kind: of.kind, name: of.name };
    answered(
      await ok(
        api.PUT("/api/accounts/{account}/set-up/connections/key", {
          params: { path },
          body: { ...which, header: header.value, key: value },
        }),
      ),
    );
    if (!value || !of.test) return;
    const now = await ok(api.POST("/api/accounts/{account}/set-up/connections/test", { params: { path }, body: which }));
    answered({ connections: now.connections });
  });
  void touched("/set-up/changes");
  if (!done) return;
  tell(value ? `${of.title}: the key is put in, and tried.` : `${of.title}: the key is taken away.`);
  emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="`${of.title}: its key`" @close="emit('close')">
    <form @submit.prevent="keep(key.trim())">
      <p>It goes along with each request there, and to nobody else. It is kept sealed, and never shown again.</p>
      <FormRow label="The key"><BFormInput v-model="key" type="password" autocomplete="off" required maxlength="2000" autofocus /></FormRow>
      <FormRow label="Sent as the header" help="Authorization says “Bearer” before it, unless the key has two words."
        ><BFormInput v-model.trim="header" required maxlength="60"
      /></FormRow>
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="!key.trim() || pending">Keep it and try it</BButton
        ><BButton v-if="of.key_at" variant="link" class="rust" :disabled="pending" @click="keep('')">Take the key away</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
