<script setup lang="ts">
/** The stand-in for an advert with a form of its own: what is sent goes to a lead source of the account. */
import { reactive, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ sources: Schemas["SourceRow"][] }>();
const account = useAccount();
const { pending, act } = usePending();
const typed = reactive({ source: 0, name: "", email: "", phone: "", wish: "" });
watch(
  () => props.sources,
  (now) => {
    if (!typed.source) typed.source = now[0]?.id ?? 0;
  },
  { immediate: true },
);
const sent = ref("");
async function fillIn() {
  await act(async () => {
    const came = await ok(
      api.POST("/api/accounts/{account}/outside-advert", { params: { path: { account: account.value } }, body: { ...typed } }),
    );
    sent.value = came.state === "taken" ? "It came in as a contact." : `It is kept there: ${came.reason}.`;
  });
}
</script>

<template>
  <section class="device" aria-label="An advert with a form">
    <div class="row head">
      <h2>An advert with a form</h2>
      <span class="soft">what is sent here goes to a lead source of the account</span>
    </div>
    <form class="ad" @submit.prevent="fillIn">
      <FormRow label="Shown for"
        ><BFormSelect v-model="typed.source"
          ><option v-for="one in sources" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <FormRow label="Full name"><BFormInput v-model="typed.name" /></FormRow
      ><FormRow label="Email"><BFormInput v-model="typed.email" /></FormRow
      ><FormRow label="Phone"><BFormInput v-model="typed.phone" /></FormRow>
      <FormRow label="What would you like?"><BFormInput v-model="typed.wish" /></FormRow>
      <p class="row">
        <BButton variant="primary" type="submit" :disabled="pending">Send it</BButton><span role="status" class="soft">{{ sent }}</span>
      </p>
    </form>
  </section>
</template>
