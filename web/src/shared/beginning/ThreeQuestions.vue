<script setup lang="ts">
/** Three answers make an account: what it is called, where it is, what it does; or with the set-up of another. */
import { refDebounced } from "@vueuse/core";
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

defineProps<{ accounts: Schemas["AccountOut"][] }>();
const emit = defineEmits<{ made: [slug: string] }>();
const name = ref("");
const trade = ref("");
const like = ref("");
const where = ref("");
const zone = ref("");
const q = refDebounced(where, 150);
const { data: found } = useQuery({
  queryKey: ["zones", q],
  queryFn: () => ok(api.GET("/api/myself/zones", { params: { query: { q: q.value } } })),
  enabled: () => q.value.trim().length > 1,
  placeholderData: (before) => before,
});
const towns = computed(() => (where.value.trim().length > 1 ? (found.value ?? []) : []));
/** What is picked, else the first that fits what is typed. */
const picked = computed(() => towns.value.find((one) => one.zone === zone.value) ?? towns.value[0]);
const { pending, faults, act } = usePending({ fields: ["name", "zone"] });
async function make() {
  await act(async () => {
    const body = { name: name.value, zone: picked.value?.zone ?? "", trade: trade.value, like: like.value };
    emit("made", (await ok(api.POST("/api/practice/accounts", { body }))).slug);
  });
}
</script>

<template>
  <form class="form" @submit.prevent="make">
    <FormRow label="What is the business called?" :fault="faults.name"
      ><BFormInput v-model="name" required maxlength="120" autofocus
    /></FormRow>
    <FormRow
      label="Where is it?"
      :fault="faults.zone"
      help="A town or a country. It says by which clock it lives, and so its country, language and money."
      ><BFormInput v-model="where" required maxlength="80" autocomplete="off"
    /></FormRow>
    <FormRow v-if="towns.length" label="By the clock of"
      ><BFormSelect :model-value="picked?.zone" @update:model-value="zone = String($event)"
        ><option v-for="one in towns" :key="one.zone" :value="one.zone">{{ one.town }}, {{ one.country }}</option></BFormSelect
      ></FormRow
    >
    <FormRow label="What does it do?"><BFormInput v-model="trade" maxlength="80" placeholder="pottery" /></FormRow>
    <FormRow v-if="accounts.length" label="House rules, hours and brand"
      ><BFormSelect v-model="like"
        ><option value="">none yet</option>
        <option v-for="one in accounts" :key="one.slug" :value="one.slug">as {{ one.name }} has them</option></BFormSelect
      ></FormRow
    >
    <p class="soft small">Until it goes live, its messages reach your own team alone.</p>
    <div class="actions"><BButton variant="primary" type="submit" :disabled="pending">Make the account</BButton><slot /></div>
  </form>
</template>
