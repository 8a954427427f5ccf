<script setup lang="ts">
/** One question before something that cannot be taken back: what will happen, and the act by its name. */
import Ask from "./Ask.vue";
import { usePending } from "./usePending";

const props = defineProps<{ title: string; act: string; yes: () => Promise<unknown> }>();
const emit = defineEmits<{ close: [] }>();
const { pending, act: doing } = usePending();
async function go() {
  if (await doing(props.yes)) emit("close");
}
</script>

<template>
  <Ask v-slot="{ close }" :title="title" @close="emit('close')">
    <div class="lead"><slot /></div>
    <div class="actions">
      <BButton variant="primary" :disabled="pending" @click="go">{{ act }}</BButton><BButton variant="link" @click="close">Not now</BButton>
    </div>
  </Ask>
</template>
