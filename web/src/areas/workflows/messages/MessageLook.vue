<script setup lang="ts">
/** A message beside the ledger: what it says, who says it, and how many a change would reach. */
import type { Schemas } from "@/api/client";
import { many } from "@/ui/words";
import { readable } from "../script/wordings";
import SaidBy from "./SaidBy.vue";

defineProps<{ message: Schemas["MessageRow"] }>();
</script>

<template>
  <aside aria-label="Notes">
    <p class="soft small">
      {{ message.version ? `Version ${message.version}, changed ${message.local_changed}` : "Not published yet" }}
    </p>
    <h2>{{ message.name }}</h2>
    <section v-for="(words, channel) in message.words" :key="channel">
      <p v-if="message.channels.length > 1" class="soft small by">{{ channel }}</p>
      <p class="said serif">{{ readable(words) || "No words yet." }}</p>
    </section>
    <p v-if="message.wordings > 1" class="soft small">{{ many(message.wordings, "wording") }}, in turn</p>
    <SaidBy v-if="message.said_by.length" :by="message.said_by" />
    <p v-else class="soft">Nothing says it yet.</p>
    <p>
      <RouterLink class="btn btn-outline-primary" :to="{ name: 'message', params: { message: message.id } }">Open it</RouterLink>
    </p>
  </aside>
</template>

<style scoped>
aside {
  border-left: 1px solid var(--rule);
  padding-left: 24px;
}
h2 {
  margin: 0 0 6px;
}
.by {
  margin: 6px 0 0;
}
.said {
  white-space: pre-line;
  max-height: 15em;
  overflow: auto;
  border-left: 2px solid var(--rule);
  padding-left: 12px;
}
@media (max-width: 900px) {
  aside {
    border: 0;
    padding: 12px 0 0;
  }
}
</style>
