<script setup lang="ts">
/** Three ways of looking at deals; and those that were kept under a name. */
import { computed, ref } from "vue";
import { useRoute } from "vue-router";

import { api, ok } from "@/api/client";
import { useAnswered, useMay, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

const route = useRoute();
const account = useAccount();
const may = useMay();
const WAYS = [
  { name: "deals", words: "By what is next" },
  { name: "deals-list", words: "As a list" },
  { name: "deals-coming", words: "What they will bring" },
];
const KEPT = ["pipeline", "whose", "least", "only", "segment", "state", "stage", "sort"];
const { data: views } = useRead("/deals/views");
const answered = useAnswered("/deals/views");
const { pending, act } = usePending();
const asks = computed(() => Object.fromEntries(KEPT.map((name) => [name, String(route.query[name] ?? "")]).filter(([, value]) => value)));
const same = (one: { asks: Record<string, string> }) => JSON.stringify(Object.entries(one.asks).sort());
const now = computed(() => same({ asks: { as: String(route.name), ...asks.value } }));
const shown = computed(() => views.value?.find((one) => same(one) === now.value));
const keeps = ref(false);
const name = ref("");
async function keep() {
  const body = { name: name.value, asks: { as: String(route.name), ...asks.value } };
  const done = await act(async () =>
    answered(await ok(api.POST("/api/accounts/{account}/deals/views", { params: { path: { account: account.value } }, body }))),
  );
  if (!done) return;
  tell(`Kept as “${name.value}”.`);
  keeps.value = false;
  name.value = "";
}
const drop = (id: number) =>
  act(async () =>
    answered(
      await ok(api.DELETE("/api/accounts/{account}/deals/views/{view_id}", { params: { path: { account: account.value, view_id: id } } })),
    ),
  );
function to(one: { asks: Record<string, string> }) {
  const { as, ...query } = one.asks;
  return { name: WAYS.some((way) => way.name === as) ? as : "deals", query };
}
</script>

<template>
  <nav class="ways" aria-label="Ways of looking at deals">
    <RouterLink
      v-for="one in WAYS"
      :key="one.name"
      :to="{ name: one.name, query: route.query.pipeline ? { pipeline: route.query.pipeline } : {} }"
      :class="{ on: route.name === one.name }"
      :aria-current="route.name === one.name ? 'page' : undefined"
      >{{ one.words }}</RouterLink
    >
    <span class="grow" />
    <span v-for="one in views" :key="one.id" class="kept"
      ><RouterLink :to="to(one)" :class="{ on: shown?.id === one.id }">{{ one.name }}</RouterLink
      ><BButton
        v-if="shown?.id === one.id && may('people')"
        variant="link"
        class="icon"
        :aria-label="`Keep “${one.name}” no more`"
        :disabled="pending"
        @click="drop(one.id)"
        >✕</BButton
      ></span
    >
    <template v-if="may('people') && route.name !== 'deals-coming' && !shown">
      <form v-if="keeps" class="row" @submit.prevent="keep">
        <BFormInput v-model.trim="name" aria-label="Keep this view as" placeholder="keep as …" maxlength="80" required autofocus /><BButton
          variant="outline-primary"
          type="submit"
          :disabled="pending"
          >Keep</BButton
        >
      </form>
      <BButton v-else variant="link" class="small" @click="keeps = true">Keep this view…</BButton>
    </template>
  </nav>
</template>

<style scoped>
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 8px;
}
.ways a {
  padding: 3px 0 6px;
  color: var(--soft);
  text-decoration: none;
}
.ways a.on {
  color: var(--ink);
  font-weight: 600;
  box-shadow: 0 2px 0 var(--ink);
}
.kept a {
  color: var(--sea);
  text-decoration: underline;
}
.row {
  gap: 6px;
}
.row input {
  width: 11rem;
}
</style>
