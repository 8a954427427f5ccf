<script setup lang="ts">
/** A contact's simulated phone and mailbox: what came, in its order; answered as they would. */
import { computed, nextTick, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import EmptyState from "@/ui/EmptyState.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ device: Schemas["DeviceOut"]; movesClock: boolean }>();
const channel = defineModel<"text" | "email" | "other">("channel", { required: true });
const account = useAccount();
const touched = useTouched();
const { pending, act } = usePending();
const items = computed(() =>
  props.device.items.filter((item) =>
    channel.value === "other" ? !["text", "email"].includes(item.channel) : item.channel === channel.value,
  ),
);
const others = computed(() => props.device.items.filter((item) => !["text", "email"].includes(item.channel)).length);
const thread = ref<HTMLElement>();
watch(
  () => [items.value.length, channel.value, props.device.contact_id],
  () => nextTick(() => thread.value?.scrollTo(0, thread.value.scrollHeight)),
);
const words = ref("");
async function say() {
  const text = words.value.trim();
  if (!text || channel.value === "other") return;
  const by = channel.value;
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/outside/{contact_id}/say", {
        params: { path: { account: account.value, contact_id: props.device.contact_id } },
        body: { channel: by, text },
      }),
    ),
  );
  if (done) words.value = "";
  void touched("/outside/{contact_id}", "/outside/mine");
}
async function answer(item: number, said: "accepted" | "declined") {
  const path = { account: account.value, contact_id: props.device.contact_id, item_id: item };
  await act(() => ok(api.POST("/api/accounts/{account}/outside/{contact_id}/entries/{item_id}", { params: { path }, body: { said } })));
  void touched("everything");
}
async function markUnwanted(item: number) {
  const path = { account: account.value, contact_id: props.device.contact_id, item_id: item };
  const done = await act(() => ok(api.POST("/api/accounts/{account}/outside/{contact_id}/unwanted/{item_id}", { params: { path } })));
  if (done) tell("Their mail provider has told the account.");
  void touched("everything");
}
/** A text cut at its links, so that each can be followed as the contact would. */
function pieces(text: string) {
  return text.split(/(https?:\/\/\S+)/).map((piece) => ({ piece, link: /^https?:\/\//.test(piece) }));
}
</script>

<template>
  <section class="device" :aria-label="`Phone and mailbox of ${device.contact}`">
    <div class="row head">
      <h2>{{ device.contact }}</h2>
      <BFormRadio v-model="channel" value="text" name="channel"
        >phone <span class="soft">{{ device.mobile || "none" }}</span></BFormRadio
      >
      <BFormRadio v-model="channel" value="email" name="channel"
        >mailbox <span class="soft">{{ device.email || "none" }}</span></BFormRadio
      >
      <BFormRadio v-if="others" v-model="channel" value="other" name="channel"
        >letters and the rest <span class="soft">{{ others }}</span></BFormRadio
      >
    </div>
    <div v-if="device.known.length" class="services">
      <p v-for="one in device.known" :key="one">{{ one }}</p>
    </div>
    <div ref="thread" class="thread" tabindex="0" role="log" aria-label="Messages">
      <EmptyState v-if="!items.length"
        >Nothing has come {{ channel === "text" ? "to this phone" : channel === "email" ? "to this mailbox" : "any other way" }} yet{{
          device.items.length ? `, but something is ${channel === "text" ? "in the mailbox" : "on the phone"}` : ""
        }}.<template v-if="movesClock">
          A message that waits for the sending hours comes when the clock gets there: move it on above.</template
        ></EmptyState
      >
      <article v-for="item in items" :key="item.id" :class="{ mine: item.inbound, email: item.channel === 'email' }">
        <h3 v-if="item.subject">{{ item.subject }}</h3>
        <p>
          <template v-for="({ piece, link }, n) in pieces(item.text)" :key="n"
            ><a v-if="link" :href="piece" target="_blank" rel="noreferrer">{{ piece }}</a
            ><template v-else>{{ piece }}</template></template
          >
        </p>
        <div v-if="item.entry" class="entry">
          <strong>{{ item.entry.title }}</strong>
          <span v-for="date in item.entry.dates" :key="date">{{ date }}{{ item.entry.where ? `, ${item.entry.where}` : "" }}</span>
          <span v-if="item.entry.gone" class="soft">taken out of their calendar</span>
          <span v-else-if="item.entry.open" class="row"
            ><BButton variant="outline-primary" :disabled="pending" @click="answer(item.id, 'accepted')">accept</BButton
            ><BButton variant="outline-primary" :disabled="pending" @click="answer(item.id, 'declined')">decline</BButton></span
          >
          <span v-else class="soft">changed by a later mail</span>
        </div>
        <small class="soft"
          >{{ ["text", "email"].includes(item.channel) ? "" : `${item.channel}, `
          }}{{ item.inbound ? device.first_name || device.contact : item.from_name }}, {{ item.local_at
          }}{{ item.report === "on its way" ? ", on its way" : "" }}</small
        >
        <BButton
          v-if="item.channel === 'email' && !item.inbound && item.report === 'delivered'"
          variant="link"
          class="small"
          :aria-label="`Mark as unwanted: ${item.subject}, ${item.local_at}`"
          :disabled="pending"
          @click="markUnwanted(item.id)"
          >Mark as unwanted</BButton
        >
      </article>
    </div>
    <form v-if="channel !== 'other'" class="row" @submit.prevent="say">
      <BFormInput
        v-model="words"
        class="grow"
        :aria-label="`Write as ${device.contact}`"
        :placeholder="`Write as ${device.first_name || device.contact}, by ${channel}`" />
      <BButton variant="primary" type="submit" :disabled="pending || !words.trim()">Send</BButton>
    </form>
  </section>
</template>
