<script setup lang="ts">
/** The whole series to oneself: to one's own phone and mailbox, a little apart, marked as a test. */
import { computed, ref } from "vue";

import { useRead, useAnswered } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ send: (apart: number) => Promise<Schemas["CopiesOut"]> }>();
const account = useAccount();
const { data: details } = useAccountDetails();
const apart = ref(60);
const { data } = useRead("/own-copies", undefined, { live: true });
const waiting = computed(() => data.value?.copies.filter((one) => one.due) ?? []);
const { pending, act } = usePending();
const put = useAnswered("/own-copies");
const start = () => act(async () => put(await props.send(apart.value)));
const stop = () =>
  act(async () => put(await ok(api.POST("/api/accounts/{account}/own-copies/stop", { params: { path: { account: account.value } } }))));
</script>

<template>
  <h3>To my own phone</h3>
  <p class="small soft">Every message of this rehearsal, to {{ data?.to.join(" and ") || "you" }}, marked as a test and counted nowhere.</p>
  <div class="row">
    <BButton variant="outline-primary" :disabled="pending" @click="start">Send it all to me</BButton>
    <FormRow label="How far apart" hides-label
      ><BFormSelect v-model="apart"
        ><option :value="60">a minute apart</option>
        <option :value="10">ten seconds apart</option>
        <option :value="0">all at once</option></BFormSelect
      ></FormRow
    >
  </div>
  <ol v-if="data?.copies.length" aria-label="What was sent to you" role="status">
    <li v-for="one in data.copies" :key="one.number">
      <StateMark :is="one.fault ? 'failed' : one.gone ? 'done' : 'waits'" /> {{ one.channel }} <span class="serif">{{ one.name }}</span>
      <small class="soft">{{ one.fault || one.due }}</small>
    </li>
  </ol>
  <p v-if="data?.copies.length" class="small">
    <RouterLink v-if="details?.outside" :to="{ name: 'outside', query: { mine: '1' } }">Read them on your simulated phone</RouterLink
    ><template v-if="waiting.length">
      · <BButton variant="link" @click="stop">stop: {{ many(waiting.length, "has", "have") }} not gone yet</BButton></template
    >
  </p>
</template>

<style scoped>
h3 {
  margin: 18px 0 4px;
  border-top: 1px solid var(--ink);
  padding-top: 10px;
}
ol {
  list-style: none;
  padding: 0;
  margin: 6px 0;
  font-size: 14px;
}
li {
  padding: 2px 0;
}
select {
  font-size: 13.5px;
}
</style>
