<script setup lang="ts">
/** A new deal: with whom, what about, worth, in which stage. A second one of somebody is asked about. */
import { ref } from "vue";

import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import ContactPick from "@/shared/ContactPick.vue";
import Ask from "@/ui/Ask.vue";
import FormRow from "@/ui/FormRow.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ pipeline: string; stages: string[]; currency: string; contact?: number; contactName?: string }>();
const emit = defineEmits<{ close: []; done: [deal: number] }>();
const account = useAccount();
const touched = useTouched();
const { pending, act } = usePending();
const contact = ref<number | undefined>(props.contact);
const named = ref(props.contactName ?? "");
const name = ref("");
const value = ref("");
const stage = ref(props.stages[0] ?? "");
const asks = ref("");
async function make() {
  const body = {
    contact_id: contact.value ?? 0,
    pipeline: props.pipeline,
    stage: stage.value,
    name: name.value,
    value: value.value || "0",
    although: asks.value !== "",
  };
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/deals", { params: { path: { account: account.value } }, body }));
    asks.value = made.asks ?? "";
    if (made.asks) return;
    tell(`The deal is in ${stage.value}.`);
    void touched("everything");
    emit("done", made.id ?? 0);
  });
}
async function chosen(id: number | undefined) {
  contact.value = id;
  asks.value = "";
  if (!id) return;
  const path = { account: account.value, contact_id: id };
  named.value = (await ok(api.GET("/api/accounts/{account}/contacts/{contact_id}", { params: { path } }))).name;
}
</script>

<template>
  <Ask v-slot="{ close }" title="A new deal" @close="$emit('close')">
    <form class="new" @submit.prevent="make">
      <p class="row">With <ContactPick :model-value="contact" :name="named" no-invented @update:model-value="chosen" /></p>
      <FormRow label="What about"><BFormInput v-model.trim="name" maxlength="200" /></FormRow>
      <div class="row">
        <FormRow :label="`Worth, in ${currency}`"
          ><BFormInput v-model="value" type="number" min="0" max="100000000000" step="0.01" inputmode="decimal"
        /></FormRow>
        <FormRow label="In"
          ><BFormSelect v-model="stage"
            ><option v-for="one in stages" :key="one">{{ one }}</option></BFormSelect
          ></FormRow
        >
      </div>
      <p v-if="asks" class="gorse" role="alert">{{ asks }} Is this another one?</p>
      <div class="row">
        <BButton variant="primary" type="submit" :disabled="pending || !contact">{{ asks ? "Yes, make another one" : "Make it" }}</BButton>
        <BButton variant="link" @click="close">Not now</BButton>
      </div>
    </form>
  </Ask>
</template>

<style scoped>
.new {
  display: grid;
  gap: 10px;
}
</style>
