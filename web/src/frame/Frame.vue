<script setup lang="ts">
/** The strip on top: the account (Ctrl+J switches), the areas in the order of the work. */
import { computed, nextTick, onMounted, onUnmounted, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import StoppedLine from "@/frame/StoppedLine.vue";
import { useAccount, useAccountDetails, useSession } from "@/practice/session";
import { useLive } from "@/ui/useLive";
import { moment } from "@/ui/words";

const { session, signOut } = useSession();
const account = useAccount();
const { data: details } = useAccountDetails();
const stopped = useLive(account);
const route = useRoute();
const router = useRouter();

const AREAS = [
  { name: "today", words: "Today" },
  { name: "people", words: "People", also: ["contact", "import", "segments", "quick", "sorting", "duplicates", "consent", "forms", "form", "words", "leads", "lead-source"] },
  { name: "workflows", words: "Workflows", also: ["workflow", "versions", "starters", "uses", "aside"] },
  { name: "diary", words: "Diary" },
  { name: "outside", words: "Outside", simulated: true },
];
/** In real use nothing outside is simulated. */
const areas = computed(() => AREAS.filter((one) => !one.simulated || details.value?.outside));
const here = computed(() => session.value?.accounts.find((one) => one.slug === account.value));

const dialog = ref<HTMLDialogElement>();
const wanted = ref("");
const marked = ref(0);
const found = computed(() => (session.value?.accounts ?? []).filter((one) => one.name.toLowerCase().includes(wanted.value.toLowerCase())));

async function openSwitch() {
  wanted.value = "";
  marked.value = 0;
  dialog.value?.showModal();
  await nextTick();
  dialog.value?.querySelector("input")?.focus();
}
function go(slug: string | undefined) {
  if (!slug) return;
  dialog.value?.close();
  const area = AREAS.find((one) => one.name === route.name || one.also?.includes(String(route.name)));
  router.push(`/${slug}/${area?.name ?? "workflows"}`);
}
function onKey(event: KeyboardEvent) {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "j") {
    event.preventDefault();
    openSwitch();
  }
}
function onSwitchKey(event: KeyboardEvent) {
  if (event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, found.value.length - 1);
  else if (event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, 0);
  else if (event.key === "Enter") go(found.value[marked.value]?.slug);
  else return;
  event.preventDefault();
}
onMounted(() => window.addEventListener("keydown", onKey));
onUnmounted(() => window.removeEventListener("keydown", onKey));

async function leave() {
  await signOut();
  router.push("/");
}
</script>

<template>
  <a class="skip" href="#here">To the page</a>
  <header>
    <button class="account link" title="Switch account, Ctrl+J" @click="openSwitch">{{ here?.name ?? "Accounts" }} ▾</button>
    <nav v-if="here" aria-label="Areas">
      <RouterLink v-for="area in areas" :key="area.name" :to="`/${account}/${area.name}`" :class="{ on: route.name === area.name || area.also?.includes(String(route.name)) }">{{ area.words }}</RouterLink>
    </nav>
    <span class="who soft">
      <span v-if="details" :class="{ gorse: details.clock_moved }">{{ moment(details.local_now) }}{{ details.clock_moved ? ", clock moved" : "" }}</span>
      <span>{{ session?.name }}</span>
      <button class="link" @click="leave">Sign out</button>
    </span>
  </header>
  <StoppedLine v-if="here" />
  <p v-if="stopped" class="stopped" role="alert">◷ {{ stopped }}</p>
  <main id="here" tabindex="-1">
    <RouterView v-if="!account || here" :key="account" />
    <div v-else class="page">
      <h1>There is no such account</h1>
      <p class="lead">Or it is not yours to enter. <RouterLink to="/">To your accounts</RouterLink></p>
    </div>
  </main>
  <dialog ref="dialog" aria-label="Switch account" @click.self="dialog?.close()">
    <label class="wide"><span>Go to account</span><input v-model="wanted" aria-controls="accounts-found" @input="marked = 0" @keydown="onSwitchKey" /></label>
    <ul id="accounts-found">
      <li v-for="(one, index) in found" :key="one.slug" :class="{ marked: index === marked }">
        <button class="link" @click="go(one.slug)">{{ one.name }}</button> <small class="soft">{{ one.zone }}</small>
      </li>
    </ul>
  </dialog>
</template>

<style scoped>
header { display: flex; align-items: baseline; gap: 26px; padding: 11px 28px 0; border-bottom: 1px solid var(--rule); flex-wrap: wrap; }
.account { font-weight: 600; color: var(--ink); text-decoration: none; }
nav { display: flex; gap: 24px; }
nav a { color: var(--soft); text-decoration: none; padding-bottom: 8px; border-bottom: 2px solid transparent; }
nav a.on { color: var(--ink); border-color: var(--ink); }
.who { margin-left: auto; display: flex; gap: 18px; font-size: 14px; padding-bottom: 8px; }
.stopped { margin: 0; padding: 8px 28px; color: var(--gorse); background: var(--mist); border-bottom: 1px solid var(--rule); font-size: 15px; }
main:focus { outline: none; }
.wide, .wide input { width: 100%; }
ul { list-style: none; padding: 0; margin: 12px 0 0; }
li { padding: 6px 8px; border-top: 1px solid var(--rule); font-family: var(--serif); font-size: 17px; }
li.marked { background: var(--mist); box-shadow: -3px 0 0 var(--sea); }
@media (max-width: 640px) {
  header { padding: 10px 16px 0; gap: 8px 18px; }
  nav { order: 3; width: 100%; gap: 20px; overflow-x: auto; }
  .who span { display: none; }
}
</style>
