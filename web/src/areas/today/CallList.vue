<script setup lang="ts">
/** Who to ring, with the number and what to say. One key records how it went. */
import { onKeyStroke } from "@vueuse/core";
import { nextTick, ref, watch } from "vue";

import type { Schemas } from "@/api/client";
import EmptyState from "@/ui/EmptyState.vue";
import { onPaper } from "@/ui/keys";
import StateMark from "@/ui/StateMark.vue";
import { many } from "@/ui/words";
import { OUTCOMES, useOutcome, type Outcome } from "./useOutcome";

type Call = Schemas["TaskRow"];
const props = defineProps<{ calls: Call[]; may: boolean; localNow: string }>();
const { record } = useOutcome();

const open = ref(0);
const note = ref("");
/** The moment they want to be rung back, in the account's time; asked for when that is the outcome. */
const ringing = ref(false);
const ringAt = ref("");
const list = ref<HTMLElement>();
const focusOn = (what: string) => nextTick(() => list.value?.querySelector<HTMLElement>(what)?.focus());
watch(
  () => props.calls,
  (now) => {
    if (!now.some((call) => call.id === open.value)) open.value = now[0]?.id ?? 0;
  },
  { immediate: true },
);
watch(open, () => ((note.value = ""), (ringing.value = false)));

async function settle(call: Call, outcome: Outcome) {
  if (outcome === "ring_back" && !ringing.value) {
    ringing.value = true;
    ringAt.value = `${props.localNow.slice(0, 10)}T10:00`;
    return focusOn(".call.open input[type='datetime-local']");
  }
  if (!(await record(call, outcome, note.value, outcome === "ring_back" ? ringAt.value : null))) return;
  ringing.value = false;
  note.value = "";
  await focusOn(".call.open");
}
function onKey(event: KeyboardEvent, call: Call) {
  if (event.target instanceof HTMLInputElement) return;
  const chosen = OUTCOMES.find((one) => one.key === event.key);
  if (chosen && props.may) {
    event.preventDefault(); // a key that opens a field is not written into it
    void settle(call, chosen.outcome);
  } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    const next = props.calls[props.calls.findIndex((one) => one.id === call.id) + (event.key === "ArrowDown" ? 1 : -1)];
    if (!next) return;
    event.preventDefault();
    open.value = next.id;
    void focusOn(".call.open");
  }
}
/** The keys of the open call work as soon as the page is there, without pointing at it. */
onKeyStroke((event) => {
  const call = props.calls.find((one) => one.id === open.value);
  if (call && onPaper(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) onKey(event, call);
});
</script>

<template>
  <h2>{{ many(calls.length, "call") }} to make</h2>
  <EmptyState v-if="!calls.length">No calls now. They appear here when a workflow asks for one.</EmptyState>
  <div ref="list">
    <div
      v-for="call in calls"
      :key="call.id"
      class="call"
      :class="{ open: call.id === open }"
      tabindex="0"
      role="group"
      :aria-label="`Call ${call.contact}`"
      @click="open = call.id"
      @focus="open = call.id"
      @keydown="onKey($event, call)">
      <div class="row">
        <RouterLink class="serif name" :to="{ name: 'contact', params: { contact: call.contact_id } }">{{ call.contact }}</RouterLink>
        <a v-if="call.mobile" class="number" :href="`tel:${call.mobile}`">{{ call.number }}</a><span v-else class="rust">no number</span>
        <span class="grow" />
        <small v-if="call.unwanted" class="rust"><StateMark is="failed" /> {{ call.unwanted }}</small>
        <small v-if="call.late_days" class="rust">{{ many(call.late_days, "day") }} late</small>
        <small class="soft">try {{ call.tried + 1 }} of {{ call.attempts }}</small>
      </div>
      <div class="about">
        about {{ call.title }}<small v-if="call.assigned" class="soft"> · {{ call.assigned }}</small>
      </div>
      <template v-if="call.id === open">
        <blockquote v-if="call.say">{{ call.say }}</blockquote>
        <p v-for="(one, number) in call.tries" :key="number" class="small soft tried">{{ one }}</p>
        <p v-if="call.last" class="gorse small">Last try: {{ call.last }}</p>
        <div v-if="may" class="outcomes">
          <BButton v-for="one in OUTCOMES" :key="one.key" variant="outline-primary" @click.stop="settle(call, one.outcome)"
            >{{ one.words }} <kbd>{{ one.key }}</kbd></BButton
          >
          <BFormInput v-model="note" aria-label="A word about the call" placeholder="a word about it" />
        </div>
        <form v-if="ringing" class="outcomes when" @submit.prevent="settle(call, 'ring_back')">
          <label>Ring back on <input v-model="ringAt" type="datetime-local" required /></label>
          <BButton variant="primary" type="submit">Keep it</BButton>
          <BButton variant="link" @click="ringing = false">not now</BButton>
        </form>
      </template>
    </div>
  </div>
</template>

<style scoped>
.call {
  padding: 9px 10px 9px 12px;
  margin-left: -12px;
  border-bottom: 1px solid var(--rule);
}
.call.open {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--thrift);
}
.number {
  font-size: 16px;
  font-weight: 600;
}
.about {
  color: var(--thrift);
}
.tried {
  margin: 2px 0;
}
.when {
  margin-top: 8px;
  align-items: center;
}
.when input {
  margin-left: 8px;
}
.outcomes input {
  flex: 1;
  min-width: 9rem;
}
</style>
