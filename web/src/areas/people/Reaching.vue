<script setup lang="ts">
/** How a contact may be reached: each channel with what they said about it, in the order they like. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import FormRow from "@/ui/FormRow.vue";

const props = defineProps<{ contact: Schemas["ContactRow"]; account: string; may: boolean }>();
const emit = defineEmits<{ changed: [] }>();
type Channel = Schemas["ConsentIn"]["channel"];
const { data: details } = useAccountDetails();
const usual = computed(() => details.value?.channels.map((one) => one.name) ?? []);
const order = computed(
  () => [...props.contact.channel_order, ...usual.value.filter((one) => !props.contact.channel_order.includes(one))] as Channel[],
);
const path = computed(() => ({ account: props.account, contact_id: props.contact.id }));
const asking = ref<{ channel: Channel; given: boolean }>();
const purposes = ref<"both" | "marketing" | "service">("both");
const OF = { given: "agreed", withdrawn: "opted out", asked: "was asked" } as Record<string, string>;
const saidOf = (channel: string) =>
  props.contact.said.filter((one) => one.channel === channel).map((one) => `${one.purpose}: ${OF[one.state]}, ${one.how}`);
const evidence = ref("");
const { pending, act } = usePending();
const says = (channel: string) =>
  props.contact.opted_out.includes(channel) ? "opted out" : props.contact.agreed.includes(channel) ? "agreed" : "said nothing";
async function up(index: number) {
  const next = [...order.value];
  next.splice(index - 1, 0, ...next.splice(index, 1));
  await act(() =>
    ok(api.PUT("/api/accounts/{account}/contacts/{contact_id}/channels", { params: { path: path.value }, body: { channels: next } })),
  );
  emit("changed");
}
async function say() {
  const asked = asking.value;
  if (!asked) return;
  if (
    await act(() =>
      ok(
        api.POST("/api/accounts/{account}/contacts/{contact_id}/consent", {
          params: { path: path.value },
          body: { ...asked, evidence: evidence.value, purposes: purposes.value === "both" ? ["marketing", "service"] : [purposes.value] },
        }),
      ),
    )
  ) {
    asking.value = undefined;
    evidence.value = "";
  }
  emit("changed");
}
</script>

<template>
  <h2>How to reach them</h2>
  <ol>
    <li v-for="(channel, index) in order" :key="channel">
      <span class="channel">{{ channel }}</span>
      <small :class="{ rust: says(channel) === 'opted out', kelp: says(channel) === 'agreed', soft: says(channel) === 'said nothing' }">{{
        { "opted out": "✕ opted out", agreed: "✓ agreed", "said nothing": "said nothing" }[says(channel)]
      }}</small>
      <span class="grow" />
      <template v-if="may">
        <BButton
          v-if="index"
          variant="link"
          class="small"
          :disabled="pending"
          :aria-label="`${channel} before ${order[index - 1]}`"
          @click="up(index)"
          >↑</BButton
        >
        <BButton
          variant="link"
          class="small"
          :title="saidOf(channel).join('; ')"
          @click="asking = { channel, given: says(channel) === 'opted out' }"
          >{{ says(channel) === "opted out" ? "agreed again…" : "opt out…" }}</BButton
        >
      </template>
    </li>
    <li v-for="words in order.flatMap((channel) => saidOf(channel).map((one) => `${channel}, ${one}`))" :key="words" class="soft small">
      {{ words }}
    </li>
  </ol>
  <form v-if="asking" class="said" @submit.prevent="say">
    <label
      ><span
        >{{ asking.given ? `They agreed to ${asking.channel} again` : `They want nothing more by ${asking.channel}` }}: how do you
        know?</span
      ><BFormInput v-model.trim="evidence" maxlength="400" required placeholder="said so on the phone today"
    /></label>
    <div class="row">
      <FormRow label="For what" hides-label
        ><BFormSelect v-model="purposes"
          ><option value="both">for everything</option>
          <option value="marketing">for news and offers</option>
          <option value="service">for what they booked</option></BFormSelect
        ></FormRow
      ><BButton variant="primary" type="submit" :disabled="pending || !evidence">Note it</BButton
      ><BButton variant="link" @click="asking = undefined">Not now</BButton>
    </div>
  </form>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
  padding-top: 12px;
  border-top: 1px solid var(--ink);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 3px 0;
}
.channel {
  min-width: 5em;
}
.said {
  border-left: 3px solid var(--sea);
  padding-left: 10px;
  margin: 6px 0;
}
.said label,
.said input {
  width: 100%;
}
.said .row {
  margin-top: 6px;
}
</style>
