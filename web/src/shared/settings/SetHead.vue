<script setup lang="ts">
/** The head of a group of settings; the first of a page says what stands at the right. */
defineProps<{ title: string; first?: boolean }>();
</script>

<template>
  <div class="set-head">
    <h2>{{ title }}</h2>
    <p class="soft small">{{ first ? "What depends on it" : "" }}</p>
  </div>
</template>

<style scoped>
.set-head {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 310px;
  column-gap: 26px;
  margin-top: 20px;
}
h2,
p {
  border-bottom: 1px solid var(--ink);
  padding-bottom: 4px;
  margin: 0;
  align-self: end;
}
h2 {
  font-size: 19px;
}
p {
  padding-bottom: 6px;
}
@media (max-width: 1000px) {
  .set-head {
    grid-template-columns: minmax(0, 1fr);
  }
  p {
    display: none;
  }
}
</style>
