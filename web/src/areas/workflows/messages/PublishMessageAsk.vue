<script setup lang="ts">
/** What publishing a message would do: who is still to read it, what changes, what objects; and the deliberate act. */
import { computed } from "vue";

import { api, ok } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { many, several } from "@/ui/words";

const props = defineProps<{ message: number }>();
const emit = defineEmits<{ close: []; done: [said: string] }>();
const account = useAccount();
const path = { account: account.value, message_id: props.message };
const { data: plan, ...planRead } = useRead("/messages/{message_id}/publish", () => ({ path }), { gcTime: 0, staleTime: 0 });
const running = computed(() => plan.value?.said_by.filter((one) => one.runs) ?? []);
const toCome = computed(() => running.value.reduce((sum, one) => sum + one.to_come, 0));
const refused = computed(() => [
  ...(plan.value?.errors ?? []),
  ...(plan.value?.objections.map((one) => `“${one.workflow}” says it. ${one.why}`) ?? []),
]);
const { pending, act } = usePending();
async function publish() {
  await act(async () => {
    const done = await ok(
      api.POST("/api/accounts/{account}/messages/{message_id}/publish", {
        params: { path },
        body: { revision: plan.value?.revision ?? 0 },
      }),
    ).catch(async (error: unknown) => {
      await planRead.refetch();
      throw error;
    });
    emit("done", `Version ${done.version} is what is said from now on.`);
  });
}
</script>

<template>
  <Ask v-slot="{ close }" title="Publish the message" wide @close="emit('close')">
    <ReadState :of="planRead" what="What publishing does">
      <template v-if="plan">
        <template v-if="refused.length">
          <p class="serif big">{{ many(refused.length, "thing stands", "things stand") }} in the way:</p>
          <p v-for="one in refused" :key="one" class="note rust"><StateMark is="failed" /> {{ one }}</p>
        </template>
        <template v-else>
          <p class="serif big">
            This becomes version {{ plan.version }}.
            <template v-if="running.length"
              >{{ several(running.map((one) => `“${one.name}”`)) }} {{ running.length === 1 ? "says" : "say" }} it from now on;
              {{
                toCome
                  ? many(toCome, "person inside is still to read it", "people inside are still to read it")
                  : "nobody inside has it to come"
              }}.</template
            >
            <template v-else>No workflow that runs says it yet.</template>
          </p>
          <p v-if="running.length" class="note kelp">
            <StateMark is="done" /> The checks and scenarios of {{ running.length === 1 ? "it" : "all of them" }} hold with these words.
          </p>
          <p class="note soft">What waits in the outbox keeps the words it has.</p>
          <template v-if="plan.changes.length">
            <h3>What changes</h3>
            <p v-for="change in plan.changes" :key="change" class="note serif">{{ change }}</p>
          </template>
          <p v-for="warning in plan.warnings" :key="warning" class="note gorse"><StateMark is="look" /> {{ warning }}</p>
        </template>
      </template>
    </ReadState>
    <div class="actions">
      <BButton variant="primary" :disabled="pending || !plan || refused.length > 0" @click="publish">{{
        pending ? "Publishing…" : `Publish version ${plan?.version ?? ""}`
      }}</BButton>
      <BButton variant="link" @click="close">Not now</BButton>
    </div>
  </Ask>
</template>

<style scoped>
.big {
  font-size: 17px;
}
h3 {
  margin: 14px 0 4px;
}
</style>
