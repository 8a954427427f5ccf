<script setup lang="ts">
/** What stands where there is nothing yet: what would be here, and what to do first, with one example. */
</script>

<template>
  <p class="empty-state"><slot /></p>
</template>

<style scoped>
.empty-state {
  font: 17px/1.5 var(--serif);
  color: var(--soft);
  padding: 26px 0;
  max-width: 38em;
}
</style>
