<script setup lang="ts">
/** Keys, and what each does. */
defineProps<{ keys: readonly (readonly [key: string, words: string])[] }>();
</script>

<template>
  <dl>
    <template v-for="[key, words] in keys" :key="key + words"
      ><dt>
        <kbd>{{ key }}</kbd>
      </dt>
      <dd>{{ words }}</dd></template
    >
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 7.5em 1fr;
  gap: 5px 14px;
  margin: 0;
}
dd {
  margin: 0;
}
</style>
