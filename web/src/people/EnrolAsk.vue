<script setup lang="ts">
/** Enrols chosen people: first which workflow, then who would come in and who would not, then the act. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const props = defineProps<{ who: Schemas["Chosen"]; count: number; workflow?: number }>();
const emit = defineEmits<{ close: []; done: [said: string] }>();
const account = useAccount();
const chosen = ref(props.workflow ?? 0);
const { data: workflows } = useQuery({
  queryKey: ["workflows", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows", { params: { path: { account: account.value } } })),
});
const open = computed(() => (workflows.value ?? []).filter((one) => one.version && one.open));
const { data: plan } = useQuery({
  queryKey: ["enrol-plan", account, chosen, props.who],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/enrol/plan", {
        params: { path: { account: account.value, workflow_id: chosen.value } },
        body: { who: props.who },
      }),
    ),
  enabled: () => chosen.value > 0,
});
const { pending, fault, act } = usePending();
async function enrol() {
  await act(async () => {
    const done = await ok(
      api.POST("/api/accounts/{account}/workflows/{workflow_id}/enrol/now", {
        params: { path: { account: account.value, workflow_id: chosen.value } },
        body: { who: props.who },
      }),
    );
    emit("done", `${many(done.joining, "person", "people")} came in.`);
  });
}
</script>

<template>
  <Ask v-slot="{ close }" :title="`Enrol ${many(count, 'person', 'people')}`" @close="emit('close')">
    <label v-if="!workflow">
      <span>In which workflow</span>
      <select v-model.number="chosen">
        <option :value="0" disabled>choose one</option>
        <option v-for="one in open" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
    </label>
    <p v-if="!open.length && workflows && !workflow" class="soft">No workflow is published and open yet.</p>
    <template v-if="plan">
      <p v-if="plan.problem" class="fault">{{ plan.problem }}</p>
      <template v-else>
        <p v-if="plan.joining" class="serif come"><strong>{{ many(plan.joining, "person comes", "people come") }} in</strong> at once. {{ plan.first_message ? `The first message goes out ${plan.first_message}.` : "No message goes out by itself." }}</p>
        <p v-else class="serif come"><strong>Nobody comes in.</strong></p>
        <p v-for="(number, why) in plan.left_out" :key="why" class="note">{{ number }} left out: {{ why }}.</p>
        <p v-if="plan.no_mobile" class="note gorse">▲ {{ plan.no_mobile }} of them have no mobile number: texts pass them over.</p>
        <p v-if="plan.no_email" class="note gorse">▲ {{ plan.no_email }} of them have no email address: emails pass them over.</p>
      </template>
    </template>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <div class="actions">
      <button :disabled="pending || !plan || !!plan.problem || !plan.joining" @click="enrol">Enrol {{ plan && !plan.problem ? many(plan.joining, "person", "people") : "" }}</button>
      <button class="link" @click="close">Not now</button>
    </div>
  </Ask>
</template>

<style scoped>
.come { font-size: 17px; margin-top: 14px; }
</style>
