<script setup lang="ts">
/** The way to show this to the client, and how it stands with them. */
import { useRead } from "@/queries/account";
import ShownState from "./ShownState.vue";

const props = defineProps<{ workflow: number }>();
const emit = defineEmits<{ show: [] }>();
const { data: shown } = useRead("/workflows/{workflow_id}/shown", () => ({ path: { workflow_id: props.workflow } }), { live: true });
</script>

<template>
  <BButton variant="link" @click="emit('show')">Show it to the client…</BButton>
  <ShownState v-if="shown" :shown="shown" />
</template>
