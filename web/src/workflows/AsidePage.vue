<script setup lang="ts">
/** What waits for somebody: messages that are held or of which nobody knows whether they went, enrolments that were set
 * aside, requests that nobody took. Each says why, and what can be done. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import HeldBack from "./HeldBack.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

type Message = Schemas["AsideMessage"];
const account = useAccount();
const { data: details } = useAccountDetails();
const cache = useQueryClient();
const { data, ...reading } = useQuery({
  queryKey: ["aside", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/aside", { params: { path: { account: account.value } } })),
  meta: LIVE,
});
const may = (right: string) => details.value?.rights.includes(right) ?? false;
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
  cache.invalidateQueries({ queryKey: ["aside"] });
}
</script>

<template>
  <div class="page">
    <h1>Waits for somebody</h1>
    <p class="soft">What does not go on by itself. Nothing here is lost, and nothing is sent twice.</p>
    <ReadState :of="reading" what="What waits">
    <p v-if="nothing" class="empty">Nothing waits. Messages that a workflow holds for a person, and whatever goes wrong, would stand here.</p>

    <HeldBack />
    <section v-if="data?.broken.length" aria-label="Connections that do not work">
      <h2>{{ many(data.broken.length, "connection does", "connections do") }} not work</h2>
      <p v-for="one in data.broken" :key="`${one.channel}${one.reason}`" class="rust">▲ {{ one.channel }}: {{ one.reason }} <span class="soft">{{ many(one.count, "message waits", "messages wait") }}, and {{ one.count === 1 ? "is" : "are" }} tried again {{ one.again }}.</span></p>
    </section>
    <section v-if="held.length" aria-label="Held messages">
      <h2>{{ many(data?.counts.held ?? 0, "message", "messages") }} held</h2>
      <article v-for="one in held" :key="one.id">
        <div><RouterLink class="serif" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink> <small class="soft">“{{ one.name }}” by {{ one.channel }}, since {{ one.since }}</small></div>
        <blockquote><strong v-if="one.subject">{{ one.subject }}<br /></strong>{{ one.body }}</blockquote>
        <div v-if="may('people')" class="actions">
          <button :disabled="pending" @click="settle(one, 'let_go', `“${one.name}” goes to ${one.contact}.`)">Let it go</button>
          <button class="link" :disabled="pending" @click="settle(one, 'drop', `“${one.name}” is not sent to ${one.contact}.`)">Do not send it</button>
        </div>
      </article>
    </section>

    <section v-if="uncertain.length" aria-label="Uncertain messages">
      <h2>▲ {{ many(data?.counts.uncertain ?? 0, "message", "messages") }} may or may not have gone</h2>
      <p class="soft">The line broke while they were handed over. Ask the person, or look into the mail server’s log, before sending again.</p>
      <article v-for="one in uncertain" :key="one.id">
        <div><RouterLink class="serif" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink> <small class="soft">“{{ one.name || one.subject }}” by {{ one.channel }}, {{ one.since }}: {{ one.reason }}</small></div>
        <div v-if="may('people')" class="actions">
          <button :disabled="pending" @click="settle(one, 'arrived', 'Noted: it arrived.')">It arrived</button>
          <button class="link" :disabled="pending" @click="settle(one, 'send_again', 'It is sent again.')">It did not, send it again</button>
        </div>
      </article>
    </section>

    <section v-if="failed" aria-label="Set aside">
      <div class="row">
        <h2>▲ {{ many(failed, "enrolment or event", "enrolments and events") }} set aside</h2>
        <span class="grow" />
        <button v-if="may('workflows')" :disabled="pending" @click="retry">Try all again</button>
      </div>
      <p class="soft">Something about them could not be decided or written down. They stand still; all others went on.</p>
      <table v-if="data?.enrolments.length">
        <thead><tr><th>Who</th><th>Workflow</th><th>Why</th></tr></thead>
        <tbody>
          <tr v-for="row in data.enrolments" :key="row.id">
            <td><RouterLink class="serif" :to="`/${account}/people/${row.contact_id}`">{{ row.contact }}</RouterLink></td>
            <td><RouterLink :to="`/${account}/workflows/${row.workflow_id}`">{{ row.workflow }}</RouterLink></td>
            <td class="rust small">{{ row.fault }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="data?.counts.events" class="soft">{{ many(data.counts.events, "event", "events") }} among them could not be handed on.</p>
    </section>

    <section v-if="data?.calls.length" aria-label="Failed requests">
      <h2>▲ {{ many(data.counts.calls, "request", "requests") }} to other systems failed</h2>
      <table>
        <thead><tr><th>Where</th><th>About</th><th>Why</th><th class="num">Tries</th><th><span class="sr">What to do</span></th></tr></thead>
        <tbody>
          <tr v-for="call in data.calls" :key="call.id">
            <td class="url">{{ call.method }} {{ call.url }}<br /><small class="soft">{{ call.since }}</small></td>
            <td><RouterLink v-if="call.contact_id" class="serif" :to="`/${account}/people/${call.contact_id}`">{{ call.contact }}</RouterLink></td>
            <td class="rust small">{{ call.reason }}<div v-if="call.answer" class="soft">“{{ call.answer.slice(0, 120) }}”</div></td>
            <td class="num">{{ call.attempts }}</td>
            <td><button v-if="may('workflows')" class="link" :disabled="pending" @click="again(call)">Ask again</button></td>
          </tr>
        </tbody>
      </table>
    </section>
    </ReadState>
  </div>
</template>

<style scoped>
section { margin-top: 22px; }
h2 + p { margin-top: 5px; }
article { border-top: 1px solid var(--rule); padding: 9px 0; }
blockquote { margin: 5px 0; white-space: pre-line; max-width: 46rem; }
.url { max-width: 24rem; overflow-wrap: anywhere; }
</style>
