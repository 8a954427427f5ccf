<script setup lang="ts">
/** What is shown of reads before, and instead of, what was read: opening, not there, refused, broken with "Try again". Only
 * once all of them are answered is the page drawn, so that it says nothing untrue. A read that breaks later leaves what was
 * read in its place, and says that it may be old. */
import { computed, onUnmounted, ref, watch } from "vue";

import { ApiError } from "@/api/client";
import type { Read } from "./reads";
import StateMark from "@/ui/StateMark.vue";

/** `page`: it stands where a whole page will. */
const props = defineProps<{ of: Read | Read[]; what?: string; missing?: string; page?: boolean }>();
const SLOW = 250; // ms before "Opening…" is said: a page that opens at once does not flicker
const heading = computed(() => (props.page ? "h1" : "h2"));
const reads = computed(() => (Array.isArray(props.of) ? props.of : [props.of]));
const unread = computed(() =>
  reads.value.filter((one) => one.isLoadingError.value || (one.isPending.value && one.fetchStatus.value !== "idle")),
);
const broken = computed(() => reads.value.find((one) => one.error.value));
const fault = computed(() => broken.value?.error.value ?? undefined);
const status = computed(() => (fault.value instanceof ApiError ? fault.value.status : 0));
const again = () => Promise.all(reads.value.filter((one) => one.error.value).map((one) => one.refetch()));
const fetching = computed(() => reads.value.some((one) => one.error.value && one.isFetching.value));

const slow = ref(false);
let timer = 0;
watch(
  () => unread.value.length > 0,
  (waits) => {
    window.clearTimeout(timer);
    slow.value = false;
    if (waits) timer = window.setTimeout(() => (slow.value = true), SLOW);
  },
  { immediate: true },
);
onUnmounted(() => window.clearTimeout(timer));
</script>

<template>
  <template v-if="!unread.length">
    <p v-if="fault && status !== 401" class="old gorse" role="alert">
      <StateMark is="waits" /> This may be old: {{ fault.message }}
      <BButton variant="link" :disabled="fetching" @click="again">Try again</BButton>
    </p>
    <slot />
  </template>
  <div v-else-if="fault && status === 404 && missing" :class="['state', { page }]">
    <component :is="heading">{{ missing }}</component>
    <p class="lead">It may have been taken away, or the address is another account’s. <slot name="missing" /></p>
  </div>
  <div v-else-if="fault && status === 403" :class="['state', { page }]" role="alert">
    <component :is="heading">Not yours to open</component>
    <p class="lead">{{ fault.message }}</p>
  </div>
  <div v-else-if="fault && status !== 401" :class="['state', { page }]" role="alert">
    <component :is="heading">{{ what ?? "This" }} could not be read</component>
    <p class="lead">{{ fault.message }}</p>
    <p><BButton variant="primary" :disabled="fetching" @click="again">Try again</BButton></p>
  </div>
  <p v-else :class="['opening', 'soft', { page }]" aria-busy="true">{{ slow ? "Opening…" : "" }}</p>
</template>

<style scoped>
.state:not(.page) {
  margin: 18px 0;
}
.old {
  margin: 0 0 12px;
}
.opening {
  min-height: 1.5em;
}
</style>
