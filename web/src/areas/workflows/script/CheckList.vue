<script setup lang="ts">
/** Checks, each with its sentence, the way to its place, and its mend. */
import type { Schemas } from "@/api/client";
import { useScript } from "./script";

defineProps<{ checks: Schemas["Check"][]; places: boolean }>();
const script = useScript();
</script>

<template>
  <ul v-if="checks.length" class="checks" aria-label="Checks">
    <li v-for="check in checks" :key="check.code + check.step + check.sentence" :class="check.severity === 'error' ? 'rust' : 'gorse'">
      <span>{{ check.severity === "error" ? "✕" : "▲" }}</span>
      <div>
        <button v-if="check.step && places" class="link at" @click="script.select(check.step, true)">{{ check.sentence }}</button><span
          v-else
          >{{ check.sentence }}</span
        >
        <button v-if="check.mend && script.mayWrite.value" class="link mend" @click="script.mend(check)">{{ check.mend.sentence }}</button>
      </div>
    </li>
  </ul>
</template>

<style scoped>
.checks {
  list-style: none;
  padding: 0;
  margin: 14px 0 0;
}
.checks li {
  display: flex;
  gap: 6px;
  border-top: 1px solid var(--rule);
  padding: 7px 0;
}
.at {
  color: inherit;
  text-align: left;
}
.mend {
  display: block;
}
</style>
