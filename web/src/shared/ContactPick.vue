<script setup lang="ts">
/** Chooses a contact of the account by searching, or the invented one (undefined). */
import { useQuery } from "@tanstack/vue-query";
import { onClickOutside } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";

import { api, ok } from "@/api/client";
import { chosen } from "@/shared/chosen";
import { useAccount } from "@/queries/session";

const props = defineProps<{ name?: string; noInvented?: boolean }>();
const model = defineModel<number | undefined>();
const account = useAccount();
const open = ref(false);
const q = ref("");
const field = ref<HTMLInputElement>();
const box = ref<HTMLElement>();
const { data } = useQuery({
  queryKey: ["contact-pick", account, q],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/contacts/find", {
        params: { path: { account: account.value } },
        body: { who: chosen({ q: q.value }), order: "name", page: 1 },
      }),
    ),
  enabled: open,
});
async function start() {
  open.value = true;
  await nextTick();
  field.value?.focus();
}
const marked = ref(0);
const rows = computed(() => [
  ...(props.noInvented || q.value ? [] : [{ id: undefined, name: "Robin Vane, invented" }]),
  ...(data.value?.rows.slice(0, 8) ?? []),
]);
watch(q, () => (marked.value = 0));
function onKey(event: KeyboardEvent) {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, rows.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter" && rows.value[marked.value]) void choose(rows.value[marked.value]?.id);
  else return;
  event.preventDefault();
}
onClickOutside(box, () => (open.value = false));
async function choose(id: number | undefined) {
  model.value = id;
  open.value = false;
  await nextTick();
  box.value?.querySelector("button")?.focus();
}
</script>

<template>
  <span ref="box" class="pick" @keydown.stop.esc="open = false">
    <BButton variant="link" :aria-expanded="open" @click="open ? (open = false) : start()">{{ name || "somebody" }} ▾</BButton>
    <span v-if="open" class="list">
      <input ref="field" v-model.trim="q" type="search" aria-label="Search a contact" placeholder="search by name" @keydown="onKey" />
      <BButton
        v-for="(row, index) in rows"
        :key="row.id ?? 0"
        variant="link"
        :class="{ marked: index === marked }"
        @click="choose(row.id)"
        >{{ row.name }}</BButton
      >
    </span>
  </span>
</template>

<style scoped>
.pick {
  position: relative;
}
.list {
  position: absolute;
  z-index: 7;
  left: 0;
  top: 1.5em;
  background: var(--paper);
  border: 1px solid var(--ink);
  padding: 8px;
  display: grid;
  gap: 5px;
  justify-items: start;
  width: 14rem;
}
.list input {
  width: 100%;
}
.marked {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
</style>
