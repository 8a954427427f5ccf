<script setup lang="ts">
/** The practice asks everybody for a second step: nothing else is open until there is one. */
import { useSession } from "@/queries/session";
import SecondSteps from "@/shared/signing-in/SecondSteps.vue";
import Sure from "@/ui/Sure.vue";
import { question } from "@/ui/sure";

const { session, signedIn, signOut } = useSession();
</script>

<template>
  <main class="page">
    <h1>A second step, {{ session?.name?.split(" ")[0] }}</h1>
    <p class="lead">Your practice asks everybody for more than a password. Set one of these up, and you are in.</p>
    <SecondSteps @changed="signedIn" />
    <p><BButton variant="link" @click="signOut">Sign out</BButton></p>
    <Sure v-if="question" />
  </main>
</template>

<style scoped>
main {
  max-width: 44rem;
}
</style>
