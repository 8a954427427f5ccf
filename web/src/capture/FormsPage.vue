<script setup lang="ts">
/** The account's forms, and its brand on the pages that contacts see. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";
import { useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import PeopleTabs from "@/people/PeopleTabs.vue";
import { useUses } from "@/people/useUses";
import { useAccount, useAccountDetails } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const router = useRouter();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value }));
const { data: details } = useAccountDetails();
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const { data: forms, ...formsRead } = useQuery({ queryKey: ["forms", account], queryFn: () => ok(api.GET("/api/accounts/{account}/forms", { params: { path: path.value } })), meta: LIVE });
const { data: kept, ...keptRead } = useQuery({ queryKey: ["brand", account], queryFn: () => ok(api.GET("/api/accounts/{account}/brand", { params: { path: path.value } })) });
const brand = reactive({ colour: "#1d5b66", line: "" });
watch(kept, (now) => now && Object.assign(brand, { colour: now.colour || "#1d5b66", line: now.line }), { immediate: true });
const { places: usesOf } = useUses();
const { pending, act } = usePending();
async function keepBrand() {
  const done = await act(() => ok(api.PUT("/api/accounts/{account}/brand", { params: { path: path.value }, body: { ...brand } })));
  if (done) tell("The brand is kept; every page has it now.");
  cache.invalidateQueries({ queryKey: ["brand"] });
}
const making = ref(false);
const name = ref("");
const forTeam = ref(false);
async function make() {
  await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/forms", { params: { path: path.value }, body: { name: name.value, for_team: forTeam.value } }));
    router.push(`/${account.value}/people/forms/${made.id}`);
  });
}
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row"><h1>Forms</h1><span class="grow" /><button v-if="may" @click="making = true">New form</button></div>
    <ReadState :of="[formsRead, keptRead]" what="The forms">
    <table v-if="forms?.length">
      <thead><tr><th>Form</th><th>Filled in by</th><th /><th class="num">Answers</th><th class="num">Kept apart as spam</th><th>Last answer</th><th>Used in</th></tr></thead>
      <tbody>
        <tr v-for="one in forms" :key="one.id">
          <td class="serif"><RouterLink :to="`/${account}/people/forms/${one.id}`">{{ one.name }}</RouterLink></td>
          <td>{{ one.for_team ? "the team" : "anybody, on its page" }}</td>
          <td :class="one.open ? 'kelp' : 'soft'">{{ one.open ? "✓ open" : "closed" }}</td>
          <td class="num">{{ one.taken }}</td><td class="num" :class="{ gorse: one.spam }">{{ one.spam }}</td><td>{{ one.last || "none yet" }}</td><td class="small">{{ usesOf("form", one.name).join(", ") || "–" }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="forms" class="empty">No form yet. One could be “Open day”: a name, an email, what one would like to try; its QR code on the poster.</p>
    <form v-if="may" class="brand" @submit.prevent="keepBrand">
      <h2>On the pages that contacts see</h2>
      <p class="row"><label><span>Colour</span><input v-model="brand.colour" type="color" /></label><label class="line"><span>A line under the name</span><input v-model="brand.line" maxlength="120" placeholder="Courses and boats at the old slip" /></label><button class="plain" :disabled="pending">Keep the brand</button></p>
    </form>
    </ReadState>
    <Ask v-if="making" v-slot="{ close }" title="A new form" @close="making = false">
      <form @submit.prevent="make">
        <label class="line"><span>Name, by which workflows know it</span><input v-model.trim="name" required maxlength="120" autofocus placeholder="Open day" /></label>
        <fieldset><legend>Filled in by</legend><label><input v-model="forTeam" type="radio" :value="false" /> anybody, on its page</label> <label><input v-model="forTeam" type="radio" :value="true" /> the team, about a contact</label></fieldset>
        <div class="actions"><button :disabled="pending">Make it</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.brand { margin-top: 26px; border-top: 1px solid var(--ink); padding-top: 10px; max-width: 46rem; }
.brand p { align-items: end; }
.brand input[type="color"] { height: 32px; width: 56px; padding: 2px; }
.line { flex: 1; }
.line input { width: 100%; }
</style>
