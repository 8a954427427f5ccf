<script setup lang="ts">
/** One's own phone and mailbox, with the tests that one sent to oneself. */
import type { Answer } from "@/queries/account";
import EmptyState from "@/ui/EmptyState.vue";

defineProps<{ mine: Answer<"/outside/mine"> }>();
</script>

<template>
  <section class="device" aria-label="My own phone and mailbox">
    <div class="row head">
      <h2>{{ mine.name }}</h2>
      <span class="soft">{{ mine.mobile || "no number" }} · {{ mine.email }}</span>
    </div>
    <div class="thread" tabindex="0" role="log" aria-label="Tests to myself">
      <EmptyState v-if="!mine.items.length"
        >Nothing has come yet. Rehearse a workflow and send its whole series to yourself, or one message from its notes.</EmptyState
      >
      <article v-for="item in mine.items" :key="item.id" :class="{ email: item.channel === 'email' }">
        <h3 v-if="item.subject">{{ item.subject }}</h3>
        <p>{{ item.text }}</p>
        <small class="soft">{{ item.channel }}, from {{ item.from_name }}, {{ item.local_at }}</small>
      </article>
    </div>
  </section>
</template>
