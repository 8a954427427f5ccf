<script setup lang="ts">
/** The booking assistant in a dialogue: where it is, what it understood, and what it says next, before it goes. */
import { useIntervalFn, useLocalStorage } from "@vueuse/core";
import { computed, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { useReplies } from "@/shared/useReplies";
import { tell } from "@/ui/told";
import { many } from "@/ui/words";

const props = defineProps<{
  talks: Schemas["ConversationOut"];
  dialogue: Schemas["DialogueOut"];
  contact: Schemas["ContactRow"];
  may: boolean;
}>();
const account = useAccount();
const { act, after, pending } = useReplies();
const name = computed(() => props.contact.first_name || props.contact.name);
const words = useLocalStorage(() => `answer-${account.value}-${props.contact.id}`, "");
const at = () => ({
  params: { path: { account: account.value, contact_id: props.contact.id } },
  body: { turn: props.dialogue.turn },
});
/** Seconds until it goes, counted down here from when that was read. */
const left = ref(0);
watch(
  () => props.talks,
  (now) => (left.value = now.goes_in),
  { immediate: true },
);
useIntervalFn(() => (left.value = Math.max(left.value - 1, 0)), 1000);
const goes = computed(() => (left.value > 0 ? `goes in ${many(left.value, "second")}` : "goes now"));

const often = (count: number) => ["", "once", "twice"][count] ?? `${count} times`;
/** `keep`: what it would have said stands in the answer's place, to be changed. */
async function takeOver(keep = false) {
  if (!props.may || pending.value) return;
  let said = "";
  const did = await act(async () => {
    said = (await ok(api.POST("/api/accounts/{account}/replies/{contact_id}/take-over", at()))).says;
  });
  if (did) {
    if (keep && said) words.value = said;
    tell(`You go on with ${props.contact.name}. The assistant says no more.`);
  }
  await after();
}
async function letGo() {
  if (await act(() => ok(api.POST("/api/accounts/{account}/replies/{contact_id}/send-now", at())))) tell("It goes now.");
  await after();
}
defineExpose({ takeOver: () => takeOver() });
</script>

<template>
  <section class="talks" aria-label="The booking assistant">
    <p>
      The assistant talks with {{ name }} about <span class="serif">{{ talks.type }}</span>.
      <template v-if="talks.offers"
        >It has offered times {{ often(talks.offers) }}, and may
        {{ talks.offers_left ? `${often(talks.offers_left)} more` : "no more" }}. </template
      ><template v-if="talks.understood"
        >Understood: <span class="serif">{{ talks.understood }}</span>. </template
      ><template v-if="talks.says"
        ><b class="gorse">Its next answer {{ goes }}.</b></template
      ><template v-else>It waits for {{ name }}.</template>
    </p>
    <p v-if="may" class="row">
      <BButton variant="outline-primary" :disabled="pending" @click="takeOver()">Take over <kbd>T</kbd></BButton>
      <template v-if="talks.says">
        <BButton variant="link" :disabled="pending" @click="letGo">Send it now</BButton>
        <BButton variant="link" :disabled="pending" @click="takeOver(true)">Change it</BButton>
      </template>
      <span class="soft small">Nothing is booked before {{ name }} has named one of the times offered.</span>
    </p>
  </section>
</template>

<style scoped>
.talks {
  border-left: 3px solid var(--gorse);
  padding: 6px 0 6px 14px;
  margin: 8px 0;
}
p {
  margin: 0 0 4px;
}
.row {
  gap: 14px;
  flex-wrap: wrap;
}
</style>
