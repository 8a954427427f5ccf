<script setup lang="ts">
/** Chooses a contact of the account by searching, or the invented one (undefined). */
import { useQuery } from "@tanstack/vue-query";
import { nextTick, ref } from "vue";

import { api, ok } from "@/api/client";
import { chosen } from "@/people/chosen";
import { useAccount } from "@/practice/session";

defineProps<{ name?: string; noInvented?: boolean }>();
const model = defineModel<number | undefined>();
const account = useAccount();
const open = ref(false);
const q = ref("");
const field = ref<HTMLInputElement>();
const { data } = useQuery({
  queryKey: ["contact-pick", account, q],
  queryFn: () => ok(api.POST("/api/accounts/{account}/contacts/find", { params: { path: { account: account.value } }, body: { who: chosen({ q: q.value }), order: "name", page: 1 } })),
  enabled: open,
});
async function start() {
  open.value = true;
  await nextTick();
  field.value?.focus();
}
function choose(id: number | undefined) {
  model.value = id;
  open.value = false;
}
</script>

<template>
  <span class="pick" @keydown.stop.esc="open = false">
    <button type="button" class="link" :aria-expanded="open" @click="open ? (open = false) : start()">{{ name || "somebody" }} ▾</button>
    <span v-if="open" class="list">
      <input ref="field" v-model.trim="q" type="search" aria-label="Search a contact" placeholder="search by name" />
      <button v-if="!noInvented" type="button" class="link" @click="choose(undefined)">Robin Vane, invented</button>
      <button v-for="row in data?.rows.slice(0, 8)" :key="row.id" type="button" class="link" @click="choose(row.id)">{{ row.name }}</button>
    </span>
  </span>
</template>

<style scoped>
.pick { position: relative; }
.list { position: absolute; z-index: 7; left: 0; top: 1.5em; background: var(--paper); border: 1px solid var(--ink); padding: 8px; display: grid; gap: 5px; justify-items: start; width: 14rem; }
.list input { width: 100%; }
</style>
