<script setup lang="ts">
/** A message beside the ledger: what it says, who says it, and how many a change would reach. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { many } from "@/ui/words";
import { readable } from "../script/wordings";

const props = defineProps<{ message: Schemas["MessageRow"] }>();
const toCome = computed(() => props.message.said_by.reduce((sum, one) => sum + one.to_come, 0));
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
    <table v-if="message.said_by.length">
      <thead>
        <tr>
          <th>Said by</th>
          <th class="num">To come</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in message.said_by" :key="one.id">
          <td>
            <RouterLink :to="{ name: 'workflow', params: { workflow: one.id } }">{{ one.name }}</RouterLink>
            <small v-if="!one.runs" class="soft"> in its draft</small>
          </td>
          <td class="num">{{ one.to_come }}</td>
        </tr>
        <tr class="sum">
          <td>A change reaches</td>
          <td class="num">{{ toCome }}</td>
        </tr>
      </tbody>
    </table>
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
table {
  width: 100%;
  margin: 14px 0;
}
th {
  font-weight: 400;
  color: var(--soft);
}
td,
th {
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
}
.sum td {
  font-weight: 600;
}
@media (max-width: 900px) {
  aside {
    border: 0;
    padding: 12px 0 0;
  }
}
</style>
