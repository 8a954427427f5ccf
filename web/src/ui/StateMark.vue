<script setup lang="ts">
/** The mark of a state, in its colour, before the words that say it. It is for eyes: whoever hears the page hears the words. */
const MARKS = {
  done: ["✓", "kelp"],
  runs: ["●", "kelp"],
  waits: ["◷", "gorse"],
  look: ["▲", "gorse"], // somebody should look at it
  broken: ["▲", "rust"],
  failed: ["✕", "rust"],
  must: ["◆", "thrift"], // somebody must do something
} as const;
defineProps<{ is: keyof typeof MARKS }>();
</script>

<template>
  <span aria-hidden="true" :class="MARKS[is][1]">{{ MARKS[is][0] }}</span>
</template>
