<script setup lang="ts">
/** What breaks inside one page breaks there alone: the frame stays, and another page, or the same once more, can be opened.
 * What it had read is forgotten then: it may be what broke it. */
import { useQueryClient } from "@tanstack/vue-query";
import { onErrorCaptured, ref, watch } from "vue";
import { useRoute } from "vue-router";

const route = useRoute();
const broke = ref("");
onErrorCaptured((error) => {
  broke.value = error.message;
  console.error(error);
  return false;
});
const cache = useQueryClient();
function again() {
  if (broke.value) cache.removeQueries({ type: "inactive" });
  broke.value = "";
}
watch(() => route.fullPath, again);
</script>

<template>
  <div v-if="broke" class="page" role="alert">
    <h1>This page broke</h1>
    <p class="lead">What was kept is kept. It says: “{{ broke }}”.</p>
    <p><BButton variant="primary" @click="again">Open it again</BButton></p>
  </div>
  <slot v-else />
</template>
