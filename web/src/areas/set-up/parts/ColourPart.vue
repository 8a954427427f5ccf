<script setup lang="ts">
/** A colour as a part of a sentence: its patch and its code, chosen with the browser's own means. */
import { valueOf } from "@/ui/events";

defineProps<{ value: string; label: string; disabled?: boolean }>();
defineEmits<{ keep: [value: string] }>();
</script>

<template>
  <label class="colour"
    ><input type="color" :value="value" :aria-label="label" :disabled="disabled" @change="$emit('keep', valueOf($event))" />{{
      value
    }}</label
  >
</template>

<style scoped>
.colour {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  border-bottom: 1px solid var(--sea);
  line-height: 1.3;
}
input {
  width: 26px;
  height: 20px;
  padding: 0;
  border: 0;
  background: none;
}
</style>
