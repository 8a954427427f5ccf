<script setup lang="ts">
/** How a contact is reached, and changing it. */
import { computed, reactive, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import FormRow from "@/ui/FormRow.vue";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ contact: Schemas["ContactRow"]; zone: string; may: boolean }>();
const account = useAccount();
const path = computed(() => ({ account: account.value, contact_id: props.contact.id }));
const touched = useTouched();
const NAMES = ["first_name", "last_name", "email", "mobile", "post", "social", "push", "zone"];
const { pending, faults, act } = usePending({ fields: NAMES });
const editing = ref(false);
const fields = reactive({ first_name: "", last_name: "", email: "", mobile: "", zone: "", post: "", push: "", social: "" });
watch(editing, (on) => {
  if (on) for (const name of Object.keys(fields) as (keyof typeof fields)[]) fields[name] = props.contact[name];
});
async function save() {
  const done = await act(() =>
    ok(api.PATCH("/api/accounts/{account}/contacts/{contact_id}", { params: { path: path.value }, body: { ...fields } })),
  );
  if (done) editing.value = false;
  void touched("everything");
}
</script>

<template>
  <form v-if="editing" class="edit" @submit.prevent="save">
    <FormRow label="First name" :fault="faults.first_name"><BFormInput v-model="fields.first_name" /></FormRow>
    <FormRow label="Last name" :fault="faults.last_name"><BFormInput v-model="fields.last_name" /></FormRow>
    <FormRow label="Email" :fault="faults.email"><BFormInput v-model="fields.email" /></FormRow>
    <FormRow label="Mobile" :fault="faults.mobile"><BFormInput v-model="fields.mobile" /></FormRow>
    <FormRow label="Postal address" :fault="faults.post"
      ><BFormInput v-model="fields.post" placeholder="1 Quay Street, Port Example"
    /></FormRow>
    <FormRow label="Social handle" :fault="faults.social"><BFormInput v-model="fields.social" /></FormRow>
    <FormRow label="Device for push notices" :fault="faults.push"><BFormInput v-model="fields.push" /></FormRow>
    <FormRow label="Time zone, when not the account’s" :fault="faults.zone"
      ><BFormInput v-model="fields.zone" :placeholder="zone"
    /></FormRow>
    <div class="actions">
      <BButton variant="primary" type="submit" :disabled="pending">Keep</BButton
      ><BButton variant="link" @click="editing = false">Leave as it was</BButton>
    </div>
  </form>
  <dl v-else>
    <dt>Mobile</dt>
    <dd>
      <a v-if="contact.mobile" :href="`tel:${contact.mobile}`">{{ contact.number }}</a><span v-else class="soft">none</span>
    </dd>
    <dt>Email</dt>
    <dd>{{ contact.email || "none" }}</dd>
    <template v-if="contact.post"
      ><dt>Postal address</dt>
      <dd>{{ contact.post }}</dd></template
    >
    <template v-if="contact.social"
      ><dt>Social</dt>
      <dd>{{ contact.social }}</dd></template
    >
    <dt>Time zone</dt>
    <dd>{{ contact.zone || `${zone} (the account’s)` }}</dd>
    <dd v-if="may"><BButton variant="link" @click="editing = true">Change</BButton></dd>
  </dl>
</template>

<style scoped>
dl {
  margin: 12px 0 0;
}
dt {
  font-size: 13px;
  color: var(--soft);
}
dd {
  margin: 0 0 8px;
  overflow-wrap: anywhere;
}
.edit label,
.edit input {
  width: 100%;
}
</style>
