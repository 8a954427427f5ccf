<script setup lang="ts">
/** A note about a contact, or a message to them. What is typed at once is a note, and is never sent to anybody. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ contact: Schemas["ContactRow"] }>();
const account = useAccount();
const path = computed(() => ({ account: account.value, contact_id: props.contact.id }));
const touched = useTouched();
const { pending, act } = usePending();
const words = ref("");
const channel = ref<"text" | "email" | "note">("note");
async function write() {
  const text = words.value.trim();
  if (!text) return;
  const kind = channel.value;
  const done = await act(async () => {
    if (kind === "note")
      await ok(api.POST("/api/accounts/{account}/contacts/{contact_id}/notes", { params: { path: path.value }, body: { text } }));
    else
      await ok(
        api.POST("/api/accounts/{account}/contacts/{contact_id}/write", { params: { path: path.value }, body: { text, channel: kind } }),
      );
  });
  if (done) words.value = "";
  void touched("everything");
}
</script>

<template>
  <form class="write" @submit.prevent="write">
    <BFormTextarea
      v-model="words"
      rows="2"
      :aria-label="channel === 'note' ? 'A note' : 'A message'"
      :placeholder="channel === 'note' ? 'A note for the team' : `Write to ${contact.first_name || contact.name}`" />
    <div class="row">
      <BFormRadio v-model="channel" value="note" name="channel">note, for the team only</BFormRadio>
      <BFormRadio v-model="channel" value="text" name="channel">text</BFormRadio>
      <BFormRadio v-model="channel" value="email" name="channel">email</BFormRadio>
      <span class="grow" />
      <BButton variant="primary" type="submit" :disabled="pending || !words.trim()">{{
        channel === "note" ? "Note it" : "Send now"
      }}</BButton>
    </div>
  </form>
</template>

<style scoped>
.write {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 14px;
  margin-bottom: 18px;
}
</style>
