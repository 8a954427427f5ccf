<script setup lang="ts">
/** Everything an account owns, as a file: made by the worker, with how far it is; taken when it is there. */
import { api, ok, type Schemas } from "@/api/client";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { bytes } from "@/ui/words";

const { of } = defineProps<{ of: Schemas["PracticeAccount"] }>();
const emit = defineEmits<{ changed: [] }>();
const { pending, act } = usePending();
const path = { slug: of.slug };
async function make() {
  await act(() => ok(api.POST("/api/practice/accounts/{slug}/file", { params: { path } })));
  emit("changed");
}
async function stop() {
  await act(() => ok(api.DELETE("/api/practice/accounts/{slug}/file", { params: { path } })));
  emit("changed");
}
</script>

<template>
  <p v-if="!of.file || of.file.state === 'stopped'" class="row">
    <BButton variant="outline-primary" :disabled="pending" @click="make">Make the file</BButton
    ><span v-if="of.file" class="soft">the one before was stopped</span>
  </p>
  <p v-else-if="of.file.state === 'running'" class="row" role="status">
    <StateMark is="runs" /> being made, {{ Math.floor(of.file.share * 100) }} of 100
    <BProgress class="bar" :value="of.file.share" :max="1" aria-label="How much of the file is made" />
    <BButton variant="link" :disabled="pending" @click="stop">Stop</BButton>
  </p>
  <p v-else class="row">
    <StateMark is="done" /> of {{ of.file.asked }}, {{ bytes(of.file.size) }}
    <a :href="`/api/practice/accounts/${of.slug}/file`" download @click="emit('changed')">Take it</a
    ><span v-if="of.file.taken" class="soft">taken</span
    ><BButton variant="link" class="small" :disabled="pending" @click="make">Make it anew</BButton>
  </p>
</template>

<style scoped>
p.row {
  align-items: baseline;
}
.bar {
  width: 12rem;
}
</style>
