<script setup lang="ts">
import type { Area } from "./areas";

defineProps<{ areas: Area[]; area?: string; vertical?: boolean }>();
const emit = defineEmits<{ go: [] }>();
</script>

<template>
  <BNav underline :vertical="vertical" aria-label="Areas">
    <BNavItem
      v-for="one in areas"
      :key="one.name"
      :to="{ name: one.name }"
      :active="one.name === area"
      active-class=""
      exact-active-class=""
      @click="emit('go')"
      >{{ one.words }}</BNavItem
    >
  </BNav>
</template>
