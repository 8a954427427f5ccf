<script setup lang="ts">
/** The demo's simulated mailbox of those who work here: what Bluffside itself wrote to them. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok } from "@/api/client";
import FormRow from "@/ui/FormRow.vue";

const { data: mails } = useQuery({ queryKey: ["mailbox"], queryFn: () => ok(api.GET("/api/mailbox")), refetchInterval: 2_000 });
const to = ref("");
const shown = computed(() => mails.value?.filter((one) => one.to.includes(to.value.trim().toLowerCase())) ?? []);
const pieces = (text: string) => text.split(/(https?:\/\/\S+)/);
</script>

<template>
  <main class="page">
    <h1>Mail to those who work here</h1>
    <p class="lead">Simulated: in this demo no mail leaves this machine. In real use this page is not there.</p>
    <FormRow label="To"><BFormInput v-model="to" type="search" placeholder="anybody" /></FormRow>
    <p v-if="mails && !shown.length" class="soft">Nothing was mailed yet.</p>
    <article v-for="one in shown" :key="one.id">
      <h2>{{ one.subject }}</h2>
      <p class="soft small">to {{ one.to }}</p>
      <p class="text">
        <template v-for="(piece, n) in pieces(one.text)" :key="n"
          ><a v-if="n % 2" :href="piece">{{ piece }}</a
          ><template v-else>{{ piece }}</template></template
        >
      </p>
    </article>
    <p><a href="/">To Bluffside</a></p>
  </main>
</template>

<style scoped>
main {
  max-width: 46rem;
}
article {
  border-top: 1px solid var(--rule);
  padding: 10px 0;
}
h2 {
  font-size: 18px;
  margin: 0;
}
.text {
  white-space: pre-line;
  overflow-wrap: anywhere;
}
</style>
