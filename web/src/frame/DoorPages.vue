<script setup lang="ts">
/** What is there for whom nobody knows yet, or who opens a link that was mailed: each of these pages by its address. */
import { computed, defineAsyncComponent } from "vue";

defineProps<{ first: boolean }>();
defineEmits<{ done: [] }>();
const SignIn = defineAsyncComponent(() => import("./SignIn.vue"));
const FirstRun = defineAsyncComponent(() => import("./FirstRun.vue"));
const DOORS: Record<string, ReturnType<typeof defineAsyncComponent>> = {
  "/new-password": defineAsyncComponent(() => import("./NewPassword.vue")),
  "/confirm": defineAsyncComponent(() => import("./ConfirmAddress.vue")),
  "/join": defineAsyncComponent(() => import("./JoinPage.vue")),
  "/mailbox": defineAsyncComponent(() => import("./MailboxPage.vue")),
};
const door = computed(() => DOORS[window.location.pathname]);
</script>

<template>
  <component :is="door" v-if="door" />
  <FirstRun v-else-if="first" @done="$emit('done')" />
  <SignIn v-else />
</template>
