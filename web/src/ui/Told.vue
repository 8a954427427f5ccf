<script setup lang="ts">
/** What is said of acts, below at the left, on every page. Ctrl+Z takes back what can be, where nothing is typed or written. */
import { onKeyStroke } from "@vueuse/core";

import { TYPING } from "./keys";
import { hush, takeBack, told } from "./told";
import { elementOf } from "@/ui/events";

onKeyStroke(
  (event) => event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey) && !event.shiftKey,
  (event) => {
    if (event.defaultPrevented || !told.value?.undo || elementOf(event)?.closest(TYPING)) return;
    event.preventDefault();
    void takeBack();
  },
);
</script>

<template>
  <div class="place" aria-live="polite">
    <BToast
      v-if="told"
      :key="told.words"
      :model-value="true"
      :is-status="told.sort === 'done'"
      no-fade
      no-progress
      no-close-button
      class="told"
      :class="told.sort">
      <span class="words">{{ told.sort === "done" ? "✓" : "✕" }} {{ told.words }}</span>
      <BButton v-if="told.undo" variant="link" class="undo" @click="takeBack">Undo</BButton>
      <BButton variant="link" class="close" aria-label="Close what was said" @click="hush">close</BButton>
    </BToast>
  </div>
</template>

<style scoped>
.place {
  position: fixed;
  left: 28px;
  bottom: 20px;
  z-index: 1090;
  max-width: min(34rem, calc(100vw - 32px));
}
.told {
  border: 1px solid var(--ink);
  background: var(--paper);
}
.told :deep(.toast-body) {
  display: flex;
  gap: 6px 16px;
  align-items: baseline;
  padding: 9px 14px;
}
.words {
  color: var(--kelp);
}
.told.fault .words {
  color: var(--rust);
}
.close {
  color: var(--soft);
  font-size: 13px;
}
@media (max-width: 640px) {
  .place {
    left: 16px;
    bottom: 12px;
  }
}
@media print {
  .place {
    display: none;
  }
}
</style>
