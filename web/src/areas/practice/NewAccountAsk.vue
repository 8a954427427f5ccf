<script setup lang="ts">
/** A new account, in a dialog. */
import type { Schemas } from "@/api/client";
import ThreeQuestions from "@/shared/beginning/ThreeQuestions.vue";
import Ask from "@/ui/Ask.vue";

defineProps<{ accounts: Schemas["AccountOut"][] }>();
defineEmits<{ close: []; made: [slug: string] }>();
</script>

<template>
  <Ask v-slot="{ close }" title="A new account" @close="$emit('close')">
    <ThreeQuestions :accounts="accounts" @made="$emit('made', $event)"
      ><BButton variant="link" @click="close">Not now</BButton></ThreeQuestions
    >
  </Ask>
</template>
