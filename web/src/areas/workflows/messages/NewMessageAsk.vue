<script setup lang="ts">
/** A new message of the library: what it is called, and by what it goes. */
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const router = useRouter();
const name = ref("");
const kind = ref("email");
const { data: catalogue } = useRead("/catalogue", undefined, { staleTime: Infinity });
const ways = computed(() => catalogue.value?.written_with.kinds.filter((one) => one.parts.some((part) => part.field === "library")) ?? []);
const { pending, act, faults } = usePending({ fields: ["name", "kind"] });
async function write() {
  await act(async () => {
    const body = { name: name.value, kind: kind.value };
    const made = await ok(api.POST("/api/accounts/{account}/messages", { params: { path: { account: account.value } }, body }));
    void router.push({ name: "message", params: { message: made.id } });
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="A new message" @close="emit('close')">
    <form @submit.prevent="write">
      <p>
        <FormRow label="As the team calls it" :fault="faults.name"
          ><BFormInput v-model.trim="name" required maxlength="120" autofocus placeholder="Thanks for coming" class="wide"
        /></FormRow>
      </p>
      <FormRow label="It goes by" :fault="faults.kind"
        ><BFormSelect v-model="kind"
          ><option v-for="one in ways" :key="one.kind" :value="one.kind">
            {{ one.kind === "reach" ? "the channel they prefer" : one.label.toLowerCase() }}
          </option></BFormSelect
        ></FormRow
      >
      <div class="actions">
        <BButton variant="primary" type="submit" :disabled="pending">Write it</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>
