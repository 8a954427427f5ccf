<script setup lang="ts">
/** The session has ended while a page was open: it says so over the page, which keeps what was typed, and goes on after
 * signing in. */
import { useQueryClient } from "@tanstack/vue-query";

import { sessionEnded, signedOut } from "@/api/client";
import { useSession } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { tell } from "@/ui/told";
import SignInForm from "./SignInForm.vue";

const cache = useQueryClient();
const { session, signedIn } = useSession();
async function again() {
  const was = session.value?.name;
  await signedIn();
  if (session.value?.name !== was) return location.reload(); // somebody else: nothing of the other's stays on the page
  sessionEnded.value = signedOut.value = false;
  await cache.invalidateQueries();
  tell("You are signed in again. What you typed is still here; press once more what was refused.");
}
</script>

<template>
  <Ask v-if="sessionEnded" title="You have been signed out" @close="sessionEnded = false">
    <p>Nothing you typed is lost: it stands on the page behind. Sign in to go on.</p>
    <SignInForm words="Sign in and go on" @done="again" />
  </Ask>
</template>
