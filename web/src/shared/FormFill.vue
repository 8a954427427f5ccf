<script setup lang="ts">
/** A form filled in by the team: about a contact, or (without one) as a test that adds nobody. */
import { computed, ref } from "vue";

import { useRead } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import FormQuestions from "./FormQuestions.vue";

const props = defineProps<{ form: number; contact?: number }>();
const emit = defineEmits<{ done: [] }>();
const account = useAccount();
const path = computed(() => ({ account: account.value, form_id: props.form }));
const { data } = useRead("/forms/{form_id}", () => ({ path: path.value }));
const answers = ref<Record<string, string[]>>({});
const faults = ref<Record<string, string>>({});
const { pending, act } = usePending();
async function send() {
  await act(async () => {
    const body = { answers: Object.fromEntries(Object.entries(answers.value).map(([id, said]) => [id, said.filter(Boolean)])) };
    const wrong = props.contact
      ? await ok(
          api.POST("/api/accounts/{account}/forms/{form_id}/about/{contact_id}", {
            params: { path: { ...path.value, contact_id: props.contact } },
            body,
          }),
        )
      : await ok(api.POST("/api/accounts/{account}/forms/{form_id}/try", { params: { path: path.value }, body }));
    faults.value = wrong.faults;
    if (!Object.keys(wrong.faults).length) emit("done");
  });
}
</script>

<template>
  <form v-if="data" @submit.prevent="send">
    <FormQuestions v-model="answers" :design="data.design" :faults="faults" />
    <p class="actions">
      <BButton variant="primary" type="submit" :disabled="pending">{{ contact ? "Keep the answers" : "Send as a test" }}</BButton>
    </p>
  </form>
</template>
