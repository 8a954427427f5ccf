<script setup lang="ts">
/** The strip on top: the account (Ctrl+J switches; Ctrl+K goes to anything in it), the areas in the order of the work. On a phone they are in a drawer. */
import { breakpointsBootstrapV5, onKeyStroke, useBreakpoints } from "@vueuse/core";
import { computed, defineAsyncComponent, onMounted, ref, watchEffect } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useAccount, useAccountDetails, useSession } from "@/queries/session";
import { entitle } from "@/router/titles";
import ErrorBoundary from "@/ui/ErrorBoundary.vue";
import { TYPING } from "@/ui/keys";
import { useLive } from "@/ui/useLive";
import { moment } from "@/ui/words";
import AreaLinks from "./AreaLinks.vue";
import { AREAS } from "./areas";
import StateMark from "@/ui/StateMark.vue";
import { elementOf } from "@/ui/events";

// Not needed to show a page, and there before anybody can press their keys.
const AreaDrawer = defineAsyncComponent(() => import("./AreaDrawer.vue"));
const StoppedLine = defineAsyncComponent(() => import("./StoppedLine.vue"));
const dialogs = { goTo: () => import("./GoToAsk.vue"), switchTo: () => import("./SwitchAsk.vue"), keys: () => import("./PageKeys.vue") };
const GoToAsk = defineAsyncComponent(dialogs.goTo);
const SwitchAsk = defineAsyncComponent(dialogs.switchTo);
const PageKeys = defineAsyncComponent(dialogs.keys);
onMounted(() => setTimeout(() => Object.values(dialogs).forEach((load) => load().catch(() => undefined)), 300));
const { session, signOut } = useSession();
const account = useAccount();
const { data: details } = useAccountDetails();
const stopped = useLive(account);
const route = useRoute();
const router = useRouter();
const wide = useBreakpoints(breakpointsBootstrapV5).greaterOrEqual("md");
/** In real use nothing outside is simulated. */
const areas = computed(() =>
  AREAS.filter((one) => (!one.simulated || details.value?.outside) && (!one.right || details.value?.rights.includes(one.right))),
);
const here = computed(() => session.value?.accounts.find((one) => one.slug === account.value));
const drawer = ref(false);
const switching = ref(false);
watchEffect(() => entitle(route, AREAS.find((one) => one.name === route.meta.area)?.words, here.value?.name));
onKeyStroke(
  (event) => (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "j",
  (event) => {
    event.preventDefault();
    switching.value = true;
  },
);
const going = ref(false);
onKeyStroke(
  (event) => (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k",
  (event) => {
    if (!here.value || document.querySelector("[role='dialog'].show")) return;
    event.preventDefault();
    going.value = true;
  },
);
function go(slug: string) {
  switching.value = false;
  // The same page where it is one of the account; what is about one thing of it leads to that thing's area.
  const same = Object.keys(route.params).every((name) => name === "account") && account.value;
  void router.push({ name: (same && route.name) || (route.meta.area ?? "today"), params: { account: slug } });
}
const keysShown = ref(false);
onKeyStroke("?", (event) => {
  if (event.defaultPrevented || elementOf(event)?.closest(`${TYPING}, [role='dialog']`)) return;
  event.preventDefault();
  keysShown.value = true;
});
</script>

<template>
  <a class="skip" href="#here">To the page</a>
  <header>
    <BNavbar container="fluid" :toggleable="false" no-auto-close>
      <BButton v-if="!wide && here" variant="link" class="menu" :aria-expanded="drawer" aria-controls="areas" @click="drawer = true"
        >Areas ▾</BButton
      >
      <BButton variant="link" class="account" title="Switch account, Ctrl+J" @click="switching = true"
        >{{ here?.name ?? "Accounts" }} ▾</BButton
      >
      <AreaLinks v-if="wide && here" :areas="areas" :area="route.meta.area" />
      <BButton v-if="here" variant="link" class="goto" title="Go to anything, Ctrl+K" @click="going = true"
        >Go to… <kbd v-if="wide">Ctrl K</kbd></BButton
      >
      <span v-if="wide && details" class="now" :class="details.clock_moved ? 'gorse' : 'soft'"
        >{{ moment(details.local_now) }}{{ details.clock_moved ? ", clock moved" : "" }}</span
      >
      <BDropdown variant="link" class="who" :text="session?.name ?? ''" placement="bottom-end">
        <BDropdownItem :to="{ name: 'myself' }">Myself</BDropdownItem>
        <BDropdownItem v-if="route.name !== 'workflow'" @click="keysShown = true">Keys <kbd>?</kbd></BDropdownItem>
        <BDropdownItem @click="signOut">Sign out</BDropdownItem>
      </BDropdown>
    </BNavbar>
  </header>
  <AreaDrawer v-if="!wide && here" v-model="drawer" :title="here.name" :areas="areas" :area="route.meta.area" />
  <StoppedLine v-if="here" />
  <p v-if="stopped" class="stopped" role="alert"><StateMark is="waits" /> {{ stopped }}</p>
  <main id="here" tabindex="-1">
    <ErrorBoundary>
      <RouterView v-if="!account || here" :key="account" />
      <div v-else class="page">
        <h1>There is no such account</h1>
        <p class="lead">Or it is not yours to enter. <RouterLink :to="{ name: 'accounts' }">To your accounts</RouterLink></p>
      </div>
    </ErrorBoundary>
  </main>
  <PageKeys v-if="keysShown" @close="keysShown = false" />
  <GoToAsk v-if="going" @close="going = false" />
  <SwitchAsk v-if="switching" :accounts="session?.accounts ?? []" @go="go" @close="switching = false" />
</template>

<style scoped>
header {
  border-bottom: 1px solid var(--rule);
}
header :deep(.container-fluid) {
  display: flex;
  align-items: baseline;
  justify-content: flex-start;
  gap: 4px 26px;
  padding: 11px 28px 0;
  flex-wrap: wrap;
}
header :deep(.nav-link) {
  padding-bottom: 8px;
}
.account {
  font-weight: 600;
  color: var(--ink);
  text-decoration: none;
}
.now {
  margin-left: auto;
  font-size: 14px;
}
.who {
  margin-left: auto;
  font-size: 14px;
}
.who :deep(.dropdown-toggle) {
  color: var(--soft);
  text-decoration: none;
}
.now + .who {
  margin-left: 0;
}
.goto {
  color: var(--soft);
  text-decoration: none;
  font-size: 14px;
}
.menu {
  text-decoration: none;
}
.stopped {
  margin: 0;
  padding: 8px 28px;
  color: var(--gorse);
  background: var(--mist);
  border-bottom: 1px solid var(--rule);
  font-size: 15px;
}
main:focus {
  outline: none;
}
main :deep(h1:focus) {
  outline: none;
}
@media (max-width: 767px) {
  header :deep(.container-fluid) {
    padding: 10px 16px 8px;
    gap: 14px;
  }
}
</style>
