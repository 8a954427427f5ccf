<script setup lang="ts">
import { computed } from "vue";

import { useRead } from "@/queries/account";
import type { Area } from "./areas";

defineProps<{ areas: Area[]; area?: string; vertical?: boolean }>();
const emit = defineEmits<{ go: [] }>();
const { data } = useRead("/waiting", undefined, { live: true });
/** By area, how many people or things of it wait for somebody who looks. */
const counts = computed<Record<string, number | undefined>>(() => ({ replies: data.value?.replies, today: data.value?.notices }));
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
      >{{ one.words }}<span v-if="counts[one.name]" class="waits">{{ counts[one.name] }}<span class="sr"> waiting</span></span></BNavItem
    >
  </BNav>
</template>

<style scoped>
.waits {
  margin-left: 5px;
  font-size: 13px;
  font-weight: 600;
  color: var(--thrift);
}
</style>
