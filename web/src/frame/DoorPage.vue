<script setup lang="ts">
/** A page for whom nobody knows yet: the name above, what it is about, and what is to be filled in. */
defineProps<{ lead: string }>();
</script>

<template>
  <main class="in">
    <h1>Bluffside</h1>
    <p class="lead">{{ lead }}</p>
    <div class="door"><slot /></div>
  </main>
</template>

<style scoped>
.in {
  max-width: 26rem;
  margin: 11vh auto 0;
  padding: 0 20px 40px;
}
.door {
  border-top: 1px solid var(--ink);
  padding-top: 18px;
}
.door :deep(form) {
  display: grid;
  gap: 14px;
  justify-items: start;
}
.door :deep(.form-row),
.door :deep(input) {
  width: 100%;
}
</style>
