<script setup lang="ts">
/** What a new name means for what uses the old one. */
defineProps<{ uses: string[] }>();
</script>

<template>
  <p class="small soft">
    <template v-if="uses.length"
      >Used in {{ uses.join(", ") }}: these take the new name, too. It is refused while a workflow runs with the old one.</template
    ><template v-else>Used nowhere yet.</template>
  </p>
</template>
