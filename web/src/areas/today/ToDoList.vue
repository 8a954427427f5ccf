<script setup lang="ts">
/** What else there is to do, and letters to print, sign and post. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import StateMark from "@/ui/StateMark.vue";
import { many } from "@/ui/words";
import { useOutcome } from "./useOutcome";

const props = defineProps<{ tasks: Schemas["TaskRow"][]; may: boolean }>();
const account = useAccount();
const { pending, record } = useOutcome();
const letters = computed(() => props.tasks.filter((task) => task.kind === "letter"));
</script>

<template>
  <h2 class="second">{{ many(tasks.length, "thing") }} to do</h2>
  <p v-if="!tasks.length" class="soft">Nothing to do.</p>
  <p v-if="letters.length" class="small">
    <a :href="`/api/accounts/${account}/letters.pdf`" target="_blank" rel="noreferrer"
      >Print {{ many(letters.length, "letter") }} (PDF, one to a page)</a
    >
  </p>
  <div v-for="task in tasks" :key="task.id" class="note row">
    <span class="grow"
      ><span class="serif">{{ task.title }}</span
      ><br /><span v-if="task.kind === 'letter'" class="small soft">letter to print, sign and post: </span
      ><RouterLink class="small" :to="{ name: 'contact', params: { contact: task.contact_id } }">{{ task.contact }}</RouterLink>
      <small v-if="task.unwanted" class="rust"><StateMark is="failed" /> {{ task.unwanted }} </small
      ><small v-if="task.late_days" class="rust">{{ many(task.late_days, "day") }} late</small>
      <details v-if="task.say" class="small">
        <summary>What it says</summary>
        <blockquote>{{ task.say }}</blockquote>
      </details></span
    >
    <BButton
      v-if="may"
      variant="outline-primary"
      :disabled="pending"
      :aria-label="`Done: ${task.title}, ${task.contact}`"
      @click="record(task, 'done')"
      >Done</BButton
    >
  </div>
</template>
