<script setup lang="ts">
/** The question that `sure` asks (sure.ts). */
import Ask from "./Ask.vue";
import { question } from "./sure";
import { usePending } from "./usePending";

const { pending, act } = usePending();
async function go(yes: () => Promise<unknown>) {
  let done: unknown;
  if ((await act(async () => (done = await yes()))) && done !== false) question.value = undefined;
}
</script>

<template>
  <Ask v-if="question" v-slot="{ close }" :title="question.title" @close="question = undefined">
    <p class="lead">{{ question.words }}</p>
    <div class="actions">
      <BButton variant="primary" :disabled="pending" @click="go(question.yes)">{{ question.act }}</BButton><BButton
        variant="link"
        @click="close"
        >Not now</BButton
      >
    </div>
  </Ask>
</template>
