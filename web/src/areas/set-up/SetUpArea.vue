<script setup lang="ts">
/** Set-up: its chapters as words at the left, the page of one beside them. What breaks in one leaves the chapters. */
import { useMay, useRead } from "@/queries/account";
import ErrorBoundary from "@/ui/ErrorBoundary.vue";

const may = useMay();
const { data: needs } = useRead("/set-up/chapters", undefined, { live: true });
const CHAPTERS: [name: string, words: string][] = [
  ["set-up", "The business"],
  ["brand", "Brand"],
  ["senders", "Senders"],
  ["hours", "Hours and days off"],
  ["rules", "House rules"],
  ["consent", "Consent"],
  ["appointments", "Appointments"],
  ["booking-assistant", "Booking assistant"],
  ["pipelines", "Pipelines"],
  ["score", "Lead score"],
  ["team", "The team"],
  ["connections", "Connections"],
  ["changes", "What changed"],
  ["live", "Going live"],
];
</script>

<template>
  <div class="book">
    <nav v-if="may('set-up')" aria-label="Set-up">
      <span v-for="[name, words] in CHAPTERS" :key="name" class="chapter"
        ><RouterLink :to="{ name }" active-class="" exact-active-class="on">{{ words }}</RouterLink
        ><small v-if="needs?.[name]" class="thrift">{{ needs[name] }}</small></span
      >
    </nav>
    <ErrorBoundary><RouterView /></ErrorBoundary>
  </div>
</template>

<style scoped>
.book {
  display: grid;
  grid-template-columns: 196px minmax(0, 1fr);
  min-height: calc(100vh - 46px);
}
nav {
  border-right: 1px solid var(--rule);
  padding: 30px 16px 30px 28px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 6px;
  font: 16px var(--serif);
}
.chapter {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  align-items: baseline;
  width: 100%;
}
.chapter small {
  font: 13px var(--sans);
  white-space: nowrap;
}
nav a {
  color: var(--ink);
  text-decoration: none;
  padding: 3px 0;
}
nav a:hover {
  color: var(--sea);
}
nav a.on {
  font-weight: 600;
  box-shadow: 0 2px 0 var(--ink);
}
@media (max-width: 800px) {
  .book {
    display: block;
  }
  .chapter {
    width: auto;
    gap: 6px;
  }
  nav {
    flex-flow: row wrap;
    gap: 2px 18px;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
    padding: 12px 16px 8px;
  }
}
</style>
