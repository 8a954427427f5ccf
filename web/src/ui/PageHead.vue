<script setup lang="ts">
/** The head of a page: its heading, what is said beside it, and at the right what can be done here. `beside`: controls of what
 * is shown (a search, a filter). */
defineProps<{ title: string; about?: string }>();
</script>

<template>
  <div class="row head">
    <h1>{{ title }}</h1>
    <span v-if="about" class="soft">{{ about }}</span>
    <slot name="beside" />
    <span class="grow" />
    <slot />
  </div>
</template>
