<script setup lang="ts">
/** The accounts a person may enter; who may enter one only is taken there. */
import { watchEffect } from "vue";
import { useRouter } from "vue-router";

import HowLong from "./HowLong.vue";
import { useSession } from "./session";

const { session } = useSession();
const router = useRouter();
watchEffect(() => {
  const only = session.value?.accounts.length === 1 ? session.value.accounts[0] : undefined;
  if (only) router.replace(`/${only.slug}/today`);
});
</script>

<template>
  <div class="page">
    <h1>Accounts</h1>
    <p class="lead">Each client business has its own people, workflows and messages.</p>
    <table>
      <thead>
        <tr><th>Account</th><th>Time zone</th><th>You are its</th></tr>
      </thead>
      <tbody>
        <tr v-for="account in session?.accounts" :key="account.slug">
          <td class="serif name"><RouterLink :to="`/${account.slug}/workflows`">{{ account.name }}</RouterLink></td>
          <td>{{ account.zone }}</td>
          <td>{{ account.role === "team" ? "team member" : account.role }}</td>
        </tr>
      </tbody>
    </table>
    <HowLong v-if="session?.consultant" />
  </div>
</template>

<style scoped>
.name { font-size: 17px; }
</style>
