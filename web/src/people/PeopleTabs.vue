<script setup lang="ts">
/** The pages of People: who is here, how they are sorted, and the ways in. */
import { useAccount } from "@/practice/session";
import { useMay } from "@/queries/account";

const account = useAccount();
const mayDo = useMay();
const PAGES: [string, string, string?][] = [
  ["", "Everybody"],
  ["/segments", "Segments"],
  ["/quick", "Quick entry", "people"],
  ["/bring-in", "Files", "import"],
  ["/forms", "Forms"],
  ["/words", "Incoming words"],
  ["/leads", "Leads", "workflows"],
  ["/sorting", "Fields, tags, lists"],
  ["/consent", "Consent"],
  ["/duplicates", "Duplicates"],
];
</script>

<template>
  <nav class="tabs" aria-label="People">
    <template v-for="[path, words, right] in PAGES" :key="path">
      <RouterLink v-if="!right || mayDo(right)" :to="`/${account}/people${path}`" :exact-active-class="'on'" :active-class="path ? 'on' : ''">{{ words }}</RouterLink>
    </template>
  </nav>
</template>

<style scoped>
.tabs { display: flex; gap: 4px 20px; flex-wrap: wrap; font-size: 14px; margin: -8px 0 14px; padding-bottom: 8px; border-bottom: 1px solid var(--rule); }
.tabs a { color: var(--soft); text-decoration: none; padding: 3px 0; }
.tabs a.on { color: var(--ink); box-shadow: 0 2px 0 var(--ink); }
</style>
