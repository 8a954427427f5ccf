<script setup lang="ts">
/** What publishing would do, in sentences, and the deliberate act. */
import { useQuery } from "@tanstack/vue-query";

import { api, ok } from "@/api/client";
import { useAccount } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";

const props = defineProps<{ workflow: number }>();
const emit = defineEmits<{ close: []; done: [] }>();
const account = useAccount();
const path = { account: account.value, workflow_id: props.workflow };
const { data: plan } = useQuery({
  queryKey: ["publish", account, props.workflow],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}/publish", { params: { path } })),
  gcTime: 0,
  staleTime: 0,
});
const { pending, fault, act } = usePending();
async function publish() {
  const revision = plan.value?.revision ?? 0;
  if (await act(() => ok(api.POST("/api/accounts/{account}/workflows/{workflow_id}/publish", { params: { path }, body: { revision } })))) emit("done");
}
</script>

<template>
  <Ask v-slot="{ close }" title="Publish" @close="emit('close')">
    <template v-if="plan">
      <template v-if="plan.errors.length">
        <p class="serif big">{{ many(plan.errors.length, "thing stands", "things stand") }} in the way:</p>
        <p v-for="error in plan.errors" :key="error" class="note rust">✕ {{ error }}</p>
      </template>
      <template v-else>
        <p class="serif big">This becomes version {{ plan.version }}. From now on people come in {{ plan.starts || "by no way yet" }}.</p>
        <p class="note">Nobody is written to by publishing. Who has a starting tag already comes in only when you enrol them.</p>
        <p v-if="plan.inside" class="note"><strong>{{ many(plan.inside, "person is", "people are") }} inside</strong> and finish the version they came in by.</p>
        <template v-if="plan.changes.length">
          <h3>What changes</h3>
          <p v-for="change in plan.changes" :key="change" class="note serif">{{ change }}</p>
        </template>
        <p v-for="warning in plan.warnings" :key="warning" class="note gorse">▲ {{ warning }}</p>
      </template>
    </template>
    <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
    <div class="actions">
      <button :disabled="pending || !plan || plan.errors.length > 0" @click="publish">Publish version {{ plan?.version }}</button>
      <button class="link" @click="close">Not now</button>
    </div>
  </Ask>
</template>

<style scoped>
.big { font-size: 17px; }
h3 { margin: 14px 0 4px; }
</style>
