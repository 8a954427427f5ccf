<script setup lang="ts">
/** What breaks inside one page breaks there alone: the frame stays, and another page, or the same once more, can be opened. */
import { onErrorCaptured, ref, watch } from "vue";
import { useRoute } from "vue-router";

const route = useRoute();
const broke = ref("");
onErrorCaptured((error) => {
  broke.value = error.message;
  console.error(error);
  return false;
});
watch(() => route.fullPath, () => (broke.value = ""));
</script>

<template>
  <div v-if="broke" class="page" role="alert">
    <h1>This page broke</h1>
    <p class="lead">What was kept is kept. It says: “{{ broke }}”.</p>
    <p><BButton variant="primary" @click="broke = ''">Open it again</BButton></p>
  </div>
  <slot v-else />
</template>
