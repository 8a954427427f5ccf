<script setup lang="ts">
/** Signed out: the sign-in page. Signed in: the frame with an area in it, and what is said of acts. */
import { defineAsyncComponent } from "vue";

import Frame from "@/frame/Frame.vue";
import { useSession } from "@/queries/session";
import Told from "@/ui/Told.vue";
import { question } from "@/ui/sure";

const SessionEnded = defineAsyncComponent(() => import("@/frame/SessionEnded.vue"));
const Sure = defineAsyncComponent(() => import("@/ui/Sure.vue"));
const FirstRun = defineAsyncComponent(() => import("@/frame/FirstRun.vue"));
const first = window.location.pathname === "/begin" && window.location.hash.length > 1;
const SignIn = defineAsyncComponent(() => import("@/frame/SignIn.vue"));
const { session, isPending, isError } = useSession();
</script>

<template>
  <BApp teleport-to="body">
    <p v-if="isPending" class="page soft">Opening…</p>
    <main v-else-if="isError && !session" class="page">
      <h1>Bluffside does not answer</h1>
      <p class="lead">The server cannot be reached. What you typed and saw as kept is kept. This page tries again by itself.</p>
    </main>
    <FirstRun v-else-if="!session?.name && first" />
    <SignIn v-else-if="!session?.name" />
    <template v-else>
      <Frame />
      <SessionEnded />
      <Sure v-if="question" />
    </template>
    <Told />
  </BApp>
</template>
