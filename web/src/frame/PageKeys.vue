<script setup lang="ts">
/** The keys of the page at hand, asked for by "?". */
import { computed } from "vue";
import { useRoute } from "vue-router";

import Ask from "@/ui/Ask.vue";
import KeyList from "@/ui/KeyList.vue";
import { EVERYWHERE, PAGE_KEYS } from "./pageKeys";

const emit = defineEmits<{ close: [] }>();
const route = useRoute();
const keys = computed(() => [...(PAGE_KEYS[String(route.name)] ?? []), ...EVERYWHERE]);
</script>

<template>
  <Ask v-slot="{ close }" title="Keys" @close="emit('close')">
    <KeyList :keys="keys" />
    <div class="actions"><BButton variant="outline-primary" @click="close">Back to the page</BButton></div>
  </Ask>
</template>
