<script setup lang="ts">
/** What waits for somebody: messages that are held or of which nobody knows whether they went, enrolments that were set
 * aside, requests that nobody took. Each says why, and what can be done. */
import { computed } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import HeldBack from "./HeldBack.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";

type Message = Schemas["AsideMessage"];
const account = useAccount();
const touched = useTouched();
const { data, ...reading } = useRead("/aside", undefined, { live: true });
const may = useMay();
const held = computed(() => data.value?.messages.filter((one) => one.state === "held") ?? []);
const uncertain = computed(() => data.value?.messages.filter((one) => one.state === "uncertain") ?? []);
const failed = computed(() => (data.value ? data.value.counts.enrolments + data.value.counts.events : 0));
const nothing = computed(() => data.value && !data.value.broken.length && Object.values(data.value.counts).every((count) => !count));

const { pending, act } = usePending();
async function settle(message: Message, did: Schemas["Found"]["did"], words: string) {
  const path = { account: account.value, message_id: message.id };
  await done(() => ok(api.POST("/api/accounts/{account}/messages/{message_id}/settle", { params: { path }, body: { did } })), words);
}
async function again(call: Schemas["AsideCall"]) {
  const path = { account: account.value, call_id: call.id };
  await done(() => ok(api.POST("/api/accounts/{account}/calls/{call_id}/retry", { params: { path } })), "It is asked again.");
}
async function retry() {
  await done(async () => {
    const { count } = await ok(api.POST("/api/accounts/{account}/aside/retry", { params: { path: { account: account.value } } }));
    tell(`${many(count, "is", "are")} tried again. What fails once more comes back here.`);
  });
}
async function done(what: () => Promise<unknown>, words = "") {
  if ((await act(what)) && words) tell(words);
  void touched("/aside");
}
const ENROLMENTS_THAT_STOPPED_COLUMNS: Column[] = [
  { key: "who", label: "Who" },
  { key: "workflow", label: "Workflow" },
  { key: "why", label: "Why", class: "rust small" },
];
const CALLS_THAT_FAILED_COLUMNS: Column[] = [
  { key: "where", label: "Where", class: "url" },
  { key: "about", label: "About" },
  { key: "why", label: "Why", class: "rust small" },
  { key: "tries", label: "Tries", num: true },
  { key: "acts", label: "What to do", hidesLabel: true },
];
</script>

<template>
  <div class="page">
    <h1>Waits for somebody</h1>
    <p class="soft">What does not go on by itself. Nothing here is lost, and nothing is sent twice.</p>
    <ReadState :of="reading" what="What waits">
      <EmptyState v-if="nothing"
        >Nothing waits. Messages that a workflow holds for a person, and whatever goes wrong, would stand here.</EmptyState
      >

      <HeldBack />
      <section v-if="data?.broken.length" aria-label="Connections that do not work">
        <h2>{{ many(data.broken.length, "connection does", "connections do") }} not work</h2>
        <p v-for="one in data.broken" :key="`${one.kind}${one.name}`" class="rust">
          <StateMark is="broken" /> {{ one.reason }}
          <span v-if="one.count" class="soft"
            >{{ many(one.count, "waits", "wait") }}, and {{ one.count === 1 ? "is" : "are" }} tried again {{ one.again }}.</span
          >
          <RouterLink v-if="may('set-up')" class="small" :to="{ name: 'connections' }">Connections</RouterLink>
        </p>
      </section>
      <section v-if="held.length" aria-label="Held messages">
        <h2>{{ many(data?.counts.held ?? 0, "message", "messages") }} held</h2>
        <article v-for="one in held" :key="one.id">
          <div>
            <RouterLink class="serif" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink>
            <small class="soft">“{{ one.name }}” by {{ one.channel }}, since {{ one.since }}</small>
          </div>
          <blockquote>
            <strong v-if="one.subject">{{ one.subject }}<br /></strong>{{ one.body }}
          </blockquote>
          <div v-if="may('people')" class="actions">
            <BButton variant="primary" :disabled="pending" @click="settle(one, 'let_go', `“${one.name}” goes to ${one.contact}.`)"
              >Let it go</BButton
            >
            <BButton variant="link" :disabled="pending" @click="settle(one, 'drop', `“${one.name}” is not sent to ${one.contact}.`)"
              >Do not send it</BButton
            >
          </div>
        </article>
      </section>

      <section v-if="uncertain.length" aria-label="Uncertain messages">
        <h2><StateMark is="look" /> {{ many(data?.counts.uncertain ?? 0, "message", "messages") }} may or may not have gone</h2>
        <p class="soft">
          The line broke while they were handed over. Ask the person, or look into the mail server’s log, before sending again.
        </p>
        <article v-for="one in uncertain" :key="one.id">
          <div>
            <RouterLink class="serif" :to="{ name: 'contact', params: { contact: one.contact_id } }">{{ one.contact }}</RouterLink>
            <small class="soft">“{{ one.name || one.subject }}” by {{ one.channel }}, {{ one.since }}: {{ one.reason }}</small>
          </div>
          <div v-if="may('people')" class="actions">
            <BButton variant="primary" :disabled="pending" @click="settle(one, 'arrived', 'Noted: it arrived.')">It arrived</BButton>
            <BButton variant="link" :disabled="pending" @click="settle(one, 'send_again', 'It is sent again.')"
              >It did not, send it again</BButton
            >
          </div>
        </article>
      </section>

      <section v-if="failed" aria-label="Set aside">
        <div class="row">
          <h2><StateMark is="look" /> {{ many(failed, "enrolment or event", "enrolments and events") }} set aside</h2>
          <span class="grow" />
          <BButton v-if="may('workflows')" variant="primary" :disabled="pending" @click="retry">Try all again</BButton>
        </div>
        <p class="soft">Something about them could not be decided or written down. They stand still; all others went on.</p>
        <DataTable
          v-if="data?.enrolments.length"
          caption="Enrolments that stopped"
          :rows="data.enrolments"
          :columns="ENROLMENTS_THAT_STOPPED_COLUMNS">
          <template #who="{ item: row }"
            ><RouterLink class="serif" :to="{ name: 'contact', params: { contact: row.contact_id } }">{{
              row.contact
            }}</RouterLink></template
          >
          <template #workflow="{ item: row }"
            ><RouterLink :to="{ name: 'workflow', params: { workflow: row.workflow_id } }">{{ row.workflow }}</RouterLink></template
          >
          <template #why="{ item: row }">{{ row.fault }}</template>
        </DataTable>
        <p v-if="data?.counts.events" class="soft">{{ many(data.counts.events, "event", "events") }} among them could not be handed on.</p>
      </section>

      <section v-if="data?.calls.length" aria-label="Failed requests">
        <h2><StateMark is="look" /> {{ many(data.counts.calls, "request", "requests") }} to other systems failed</h2>
        <DataTable caption="Calls that failed" :rows="data.calls" :columns="CALLS_THAT_FAILED_COLUMNS">
          <template #where="{ item: call }"
            >{{ call.method }} {{ call.url }}<br /><small class="soft">{{ call.since }}</small></template
          >
          <template #about="{ item: call }"
            ><RouterLink v-if="call.contact_id" class="serif" :to="{ name: 'contact', params: { contact: call.contact_id } }">{{
              call.contact
            }}</RouterLink></template
          >
          <template #why="{ item: call }"
            >{{ call.reason }}
            <div v-if="call.answer" class="soft">“{{ call.answer.slice(0, 120) }}”</div></template
          >
          <template #tries="{ item: call }">{{ call.attempts }}</template>
          <template #acts="{ item: call }"
            ><BButton v-if="may('workflows')" variant="link" :disabled="pending" @click="again(call)">Ask again</BButton></template
          >
        </DataTable>
      </section>
    </ReadState>
  </div>
</template>

<style scoped>
section {
  margin-top: 22px;
}
h2 + p {
  margin-top: 5px;
}
article {
  border-top: 1px solid var(--rule);
  padding: 9px 0;
}
blockquote {
  margin: 5px 0;
  white-space: pre-line;
  max-width: 46rem;
}
:deep(.url) {
  max-width: 24rem;
  overflow-wrap: anywhere;
}
</style>
