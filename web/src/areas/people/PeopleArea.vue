<script setup lang="ts">
/** The pages of People under their links: who is here, how they are sorted, and the ways in. What breaks in one leaves the links. */
import { useMay } from "@/queries/account";
import ErrorBoundary from "@/ui/ErrorBoundary.vue";

const mayDo = useMay();
const PAGES: [name: string, words: string, right?: string][] = [
  ["people", "Everybody"],
  ["segments", "Segments"],
  ["quick", "Quick entry", "people"],
  ["import", "Files", "import"],
  ["forms", "Forms"],
  ["words", "Incoming words"],
  ["leads", "Leads", "workflows"],
  ["sorting", "Fields, tags, lists"],
  ["duplicates", "Duplicates"],
];
const WITHIN: Record<string, string> = { form: "forms", "lead-source": "leads" };
</script>

<template>
  <nav class="tabs" aria-label="People">
    <template v-for="[name, words, right] in PAGES" :key="name">
      <RouterLink
        v-if="!right || mayDo(right)"
        :to="{ name }"
        :class="{ on: name === (WITHIN[String($route.name)] ?? $route.name) }"
        active-class=""
        >{{ words }}</RouterLink
      >
    </template>
  </nav>
  <ErrorBoundary><RouterView /></ErrorBoundary>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 4px 20px;
  flex-wrap: wrap;
  font-size: 14px;
  max-width: 1224px;
  margin: 14px 28px -8px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--rule);
}
.tabs a {
  color: var(--soft);
  text-decoration: none;
  padding: 3px 0;
}
.tabs a.on {
  color: var(--ink);
  box-shadow: 0 2px 0 var(--ink);
}
@media (max-width: 640px) {
  .tabs {
    margin: 8px 16px -8px;
  }
}
</style>
