<script setup lang="ts">
/** Signed out: the sign-in page, or the page of a link that was mailed. Signed in: the frame with an area in it, and what is said
 * of acts. */
import { defineAsyncComponent, ref, watch } from "vue";

import Frame from "@/frame/Frame.vue";
import { useSession } from "@/queries/session";
import Told from "@/ui/Told.vue";
import { question } from "@/ui/sure";

const SessionEnded = defineAsyncComponent(() => import("@/frame/SessionEnded.vue"));
const SecondStepNeeded = defineAsyncComponent(() => import("@/frame/SecondStepNeeded.vue"));
const Sure = defineAsyncComponent(() => import("@/ui/Sure.vue"));
const DoorPages = defineAsyncComponent(() => import("@/frame/DoorPages.vue"));
const { session, isPending, isError } = useSession();
const isDoor = /^\/(new-password|confirm|join|mailbox)$/.test(window.location.pathname);
/** Until it is gone through: whoever began it is signed in from its second page on. */
const first = ref(window.location.pathname === "/begin" && window.location.hash.length > 1);
const stop = watch(
  session,
  (now) => {
    if (!now) return;
    if (now.name) first.value = false; // who is signed in already needs no first run
    queueMicrotask(() => stop());
  },
  { immediate: true },
);
</script>

<template>
  <BApp teleport-to="body">
    <p v-if="isPending" class="page soft">Opening…</p>
    <main v-else-if="isError && !session" class="page">
      <h1>Bluffside does not answer</h1>
      <p class="lead">The server cannot be reached. What you typed and saw as kept is kept. This page tries again by itself.</p>
    </main>
    <DoorPages v-else-if="isDoor || first || !session?.name" :first="first" @done="first = false" />
    <SecondStepNeeded v-else-if="session.second_step" />
    <template v-else>
      <Frame />
      <SessionEnded />
      <Sure v-if="question" />
    </template>
    <Told />
  </BApp>
</template>
