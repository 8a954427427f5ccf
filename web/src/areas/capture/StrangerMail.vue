<script setup lang="ts">
/** Emails from people nobody here knows; no rule fitted them. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useMay, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { usePending } from "@/ui/usePending";

defineProps<{ strangers: Schemas["StrangerOut"][] }>();
const account = useAccount();
const path = computed(() => ({ account: account.value }));
const touched = useTouched();
const mayDo = useMay();
const { pending, act } = usePending();
const came = ref<Schemas["ContactRow"]>();
async function takeIn(id: number) {
  const params = { path: { ...path.value, stranger_id: id } };
  came.value = undefined;
  await act(async () => {
    came.value = await ok(api.POST("/api/accounts/{account}/strangers/{stranger_id}/take-in", { params }));
  });
  void touched("/strangers");
}
const throwAway = (one: { id: number; name: string; address: string }) =>
  sure({
    title: `Throw the email from ${one.name || one.address} away`,
    act: "Throw it away",
    words: "It cannot be brought back.",
    yes: async () => {
      await ok(api.DELETE("/api/accounts/{account}/strangers/{stranger_id}", { params: { path: { ...path.value, stranger_id: one.id } } }));
      void touched("/strangers");
    },
  });
</script>

<template>
  <section aria-label="Emails from people nobody here knows">
    <h2>Emails from people nobody here knows</h2>
    <p v-if="came" class="kelp" role="status">
      <StateMark is="done" />
      <RouterLink :to="{ name: 'contact', params: { contact: came.id } }">{{ came.name || came.email }}</RouterLink> is a contact now; what
      they wrote waits under Today.
    </p>
    <ul v-if="strangers.length" class="plain">
      <li v-for="one in strangers" :key="one.id">
        <div class="row">
          <strong class="serif">{{ one.name || one.address }}</strong><span v-if="one.name" class="soft">{{ one.address }}</span
          ><span class="soft">{{ one.at }}</span
          ><span class="grow" />
          <template v-if="mayDo('people')">
            <BButton variant="link" :disabled="pending" @click="takeIn(one.id)">Make them a contact</BButton>
            <BButton variant="link" :disabled="pending" @click="throwAway(one)">Throw it away</BButton>
          </template>
        </div>
        <p class="serif begins">
          <strong v-if="one.subject">{{ one.subject }}. </strong>{{ one.text }}
        </p>
      </li>
    </ul>
    <p v-else class="soft">None wait. An email that no rule fits, from an address nobody here has, is kept here until somebody decides.</p>
  </section>
</template>

<style scoped>
section {
  margin-top: 26px;
}
.plain {
  list-style: none;
  padding: 0;
  margin: 0;
}
.plain li {
  border-top: 1px solid var(--rule);
  padding: 10px 0;
}
.begins {
  margin: 4px 0 0;
  white-space: pre-line;
  max-height: 6.2em;
  overflow: hidden;
  overflow-wrap: anywhere;
  max-width: 46rem;
}
</style>
