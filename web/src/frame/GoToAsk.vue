<script setup lang="ts">
/** Ctrl+K: to anything of the account by the words of its name, and to pages and acts; what one went to last stands first. */
import { refDebounced, useLocalStorage } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";
import { useRouter, type RouteLocationRaw } from "vue-router";

import type { Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { useMay, useRead } from "@/queries/account";
import Ask from "@/ui/Ask.vue";
import { placesFor, type Place } from "./places";
import StateMark from "@/ui/StateMark.vue";

interface Aim {
  to: RouteLocationRaw;
  name: string;
  kind: string;
  about: string;
}
const emit = defineEmits<{ close: [] }>();
const account = useAccount();
const router = useRouter();
const may = useMay();
const same = (one: RouteLocationRaw, other: RouteLocationRaw) => JSON.stringify(one) === JSON.stringify(other);
const RECENT = 8;
const recent = useLocalStorage<Aim[]>(`bluffside-went-${account.value}`, []);

const typed = ref("");
const words = computed(() => typed.value.trim());
const asked = refDebounced(words, 120);
const { data, isFetching, error } = useRead("/find", () => ({ query: { q: asked.value } }), {
  enabled: () => asked.value !== "",
  placeholderData: (before) => before,
});
const KINDS: Record<string, [string, (found: Schemas["FoundOut"]) => RouteLocationRaw]> = {
  contact: ["person", (one) => ({ name: "contact", params: { contact: one.id } })],
  workflow: ["workflow", (one) => ({ name: "workflow", params: { workflow: one.id } })],
  message: ["message", (one) => ({ name: "message", params: { message: one.id } })],
  form: ["form", (one) => ({ name: "form", params: { form: one.id } })],
  source: ["source of leads", (one) => ({ name: "lead-source", params: { source: one.id } })],
  segment: ["segment", (one) => ({ name: "people", query: { segment: one.name } })],
  tag: ["tag", (one) => ({ name: "people", query: { tag: one.name } })],
  list: ["list", (one) => ({ name: "people", query: { list: one.name } })],
};
const aims = computed<Aim[]>(() => {
  if (!words.value) return recent.value.length ? recent.value : placesFor("", may).map(asAim);
  const found = (data.value ?? []).flatMap((one) => {
    const kind = KINDS[one.kind];
    return kind ? [{ to: kind[1](one), name: one.name, kind: kind[0], about: one.about }] : [];
  });
  return [...placesFor(words.value, may).slice(0, 6).map(asAim), ...found];
});
function asAim({ name, ask, words }: Place): Aim {
  return { to: { name, query: ask ? { ask } : {} }, name: words, kind: ask ? "do" : "page", about: "" };
}
const waits = computed(() => isFetching.value || asked.value !== words.value);
const marked = ref(0);
watch(words, () => (marked.value = 0));
const chosenEarly = ref(false); // Enter was pressed before the answer was there
watch(waits, (still) => {
  if (!still && chosenEarly.value) void go(aims.value[marked.value]);
  chosenEarly.value = false;
});
async function go(aim: Aim | undefined) {
  if (!aim) return;
  recent.value = [aim, ...recent.value.filter((one) => !same(one.to, aim.to))].slice(0, RECENT);
  await nextTick(); // it is written down before the dialog goes
  emit("close");
  void router.push(aim.to);
}
function onKey(event: KeyboardEvent) {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, aims.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter" && words.value && waits.value && !marked.value && aims.value[0]?.kind !== "page") chosenEarly.value = true;
  else if (event.key === "Enter") void go(aims.value[marked.value]);
  else return;
  event.preventDefault();
}
</script>

<template>
  <Ask title="Go to" @close="emit('close')">
    <BFormInput
      v-model="typed"
      class="sought"
      autofocus
      autocomplete="off"
      role="combobox"
      aria-label="A person, a workflow, a page, something to do"
      aria-expanded="true"
      aria-controls="aims"
      :aria-activedescendant="aims.length ? `aim-${marked}` : undefined"
      maxlength="80"
      placeholder="a person, a workflow, a page, something to do"
      @keydown="onKey" />
    <p v-if="!words && recent.length" class="small soft before">Where you went last</p>
    <ul id="aims" role="listbox" aria-label="Found" :aria-busy="waits">
      <li
        v-for="(one, index) in aims"
        :id="`aim-${index}`"
        :key="JSON.stringify(one.to)"
        role="option"
        :aria-selected="index === marked"
        :class="{ marked: index === marked }"
        @click="go(one)">
        <small class="soft kind">{{ one.kind }}</small> <span class="serif">{{ one.name }}</span>
        <small class="soft">{{ one.about }}</small>
      </li>
    </ul>
    <p v-if="error" class="rust" role="alert"><StateMark is="failed" /> {{ error.message }}</p>
    <p v-else-if="words && !waits && !aims.length" class="soft" role="status">
      Nothing here is called that. Names are found by how their words begin.
    </p>
  </Ask>
</template>

<style scoped>
.sought {
  width: 100%;
}
.before {
  margin: 10px 0 0;
}
ul {
  list-style: none;
  padding: 0;
  margin: 10px 0 0;
  min-height: 16rem;
}
li {
  padding: 5px 8px;
  border-top: 1px solid var(--rule);
  cursor: pointer;
  display: flex;
  gap: 10px;
  align-items: baseline;
}
li .serif {
  font-size: 17px;
}
li.marked {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
.kind {
  min-width: 6.5rem;
}
</style>
