<script setup lang="ts">
/** The labels of a message, typed with commas between them. */
import { computed } from "vue";

const props = defineProps<{ labels: readonly string[]; open: boolean }>();
const emit = defineEmits<{ change: [labels: string[]] }>();
const words = computed(() => props.labels.join(", "));
function keep(event: Event) {
  if (!(event.target instanceof HTMLInputElement)) return;
  const next = event.target.value
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  if (next.join() !== props.labels.join()) emit("change", [...new Set(next)]);
}
</script>

<template>
  <BFormInput
    v-if="open"
    :model-value="words"
    aria-label="Labels, with commas between them"
    placeholder="none"
    maxlength="400"
    @change="keep" />
  <span v-else>{{ words || "none" }}</span>
</template>
