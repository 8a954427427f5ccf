<script setup lang="ts">
/** A changeable part of a sentence that is pressed: underlined words. */
import { ref } from "vue";

defineProps<{ label: string; words: string; disabled?: boolean }>();
defineEmits<{ press: [] }>();
const button = ref<{ $el: HTMLElement }>();
defineExpose({ focus: () => button.value?.$el.focus() });
</script>

<template>
  <BButton ref="button" variant="link" class="part" :aria-label="label" :disabled="disabled" @click="$emit('press')">{{ words }}</BButton>
</template>

<style scoped>
.part {
  display: inline;
  vertical-align: baseline;
  font: inherit;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 1px solid var(--sea);
  border-radius: 0;
  line-height: 1.3;
}
.part:hover {
  background: var(--mist);
}
.part:disabled {
  opacity: 1;
  border-bottom-color: transparent;
}
</style>
