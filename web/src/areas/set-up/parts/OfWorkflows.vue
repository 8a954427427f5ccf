<script setup lang="ts">
/** Workflows by name where they are one or two, else how many, and their names when asked for. */
import { computed, ref } from "vue";

import { many } from "@/ui/words";

const props = defineProps<{ of: { id: number; name: string }[] }>();
const all = ref(false);
const shown = computed(() => (all.value || props.of.length <= 2 ? props.of : []));
</script>

<template>
  <template v-for="(one, at) in shown" :key="one.id"
    >{{ at === 0 ? "" : at === shown.length - 1 ? " and " : ", "
    }}<RouterLink :to="{ name: 'workflow', params: { workflow: one.id } }">{{ one.name }}</RouterLink></template
  ><BButton v-if="!shown.length && of.length" variant="link" @click="all = true">{{ many(of.length, "workflow") }}</BButton>
</template>
