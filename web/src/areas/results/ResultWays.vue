<script setup lang="ts">
/** The pages of results, with the same days on each. */
import { useRoute } from "vue-router";

const route = useRoute();
const WAYS = [
  { name: "results", words: "Workflows" },
  { name: "results-messages", words: "Messages" },
  { name: "results-team", words: "Team" },
  { name: "results-sources", words: "Where people came from" },
] as const;
const days = () => ({ since: route.query.since, until: route.query.until });
</script>

<template>
  <nav class="ways" aria-label="Results">
    <RouterLink v-for="one in WAYS" :key="one.name" :to="{ name: one.name, query: days() }">{{ one.words }}</RouterLink>
  </nav>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  margin: 2px 0 12px;
  border-bottom: 1px solid var(--rule);
}
.ways a {
  color: var(--soft);
  text-decoration: none;
  padding: 3px 0 6px;
  border-bottom: 2px solid transparent;
}
.ways a.router-link-exact-active {
  color: var(--ink);
  border-color: var(--ink);
}
</style>
