<script setup lang="ts">
/** The team's day: who to ring, with the number and what to say; replies to answer; things to do. One key records an outcome. */
import { onKeyStroke } from "@vueuse/core";
import { computed, nextTick, ref, watch } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import ProposalList from "@/people/ProposalList.vue";
import { useAccount, useAccountDetails } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import { onPaper } from "@/ui/keys";

type Outcome = Schemas["Outcome"];
const OUTCOMES: { key: string; outcome: Outcome; words: string }[] = [
  { key: "1", outcome: "reached", words: "Reached" },
  { key: "2", outcome: "no_answer", words: "No answer" },
  { key: "3", outcome: "left_message", words: "Left a message" },
  { key: "4", outcome: "dropped", words: "Not needed" },
  { key: "5", outcome: "ring_back", words: "Ring back on …" },
];

const account = useAccount();
const { data: details } = useAccountDetails();
const touched = useTouched();
const { data, ...reading } = useRead("/today", undefined, { live: true });
const { data: outlook, ...outlookRead } = useRead("/diary", () => ({ query: { days: 1 } }), { refetchInterval: 20_000 });
const goesOut = computed(() => outlook.value?.days[0]?.outlook.filter((row) => row.channel) ?? []);
const { data: waits, ...waitsRead } = useRead("/aside", undefined, { live: true });
const { data: forms, ...formsRead } = useRead("/forms", undefined, { live: true });
const apart = computed(() => forms.value?.filter((form) => form.spam) ?? []);
const held = computed(() => waits.value?.messages.filter((one) => one.state === "held") ?? []);
async function settle(message: number, did: "let_go" | "drop") {
  await act(async () => {
    const done = await ok(api.POST("/api/accounts/{account}/messages/{message_id}/settle", { params: { path: { account: account.value, message_id: message } }, body: { did } }));
    tell(did === "drop" ? "It is not sent, and what follows up on it is left out." : done.goes ? `It goes ${done.goes}, when the hours let it.` : "It is on its way.");
  });
  touched("/aside");
}
const letters = computed(() => data.value?.to_dos.filter((task) => task.kind === "letter") ?? []);
const { act } = usePending();
const mayDo = useMay();
const may = computed(() => mayDo("tasks"));

const open = ref(0);
const note = ref("");
watch(data, (now) => {
  if (now && !now.calls.some((call) => call.id === open.value)) open.value = now.calls[0]?.id ?? 0;
});
watch(open, () => ((note.value = ""), (ringing.value = false)));
/** The moment they want to be rung back, in the account's time; asked for when that is the outcome. */
const ringing = ref(false);
const ringAt = ref("");
async function askWhen() {
  ringing.value = true;
  ringAt.value = `${(details.value?.local_now ?? "").slice(0, 10)}T10:00`;
  await nextTick();
  document.querySelector<HTMLInputElement>(".call.open input[type='datetime-local']")?.focus();
}

async function record(task: Schemas["TaskRow"], outcome: Outcome) {
  if (outcome === "ring_back" && !ringing.value) return askWhen();
  let back = "";
  const done = await act(async () => {
    const { comes_back } = await ok(
      api.POST("/api/accounts/{account}/tasks/{task_id}/outcome", {
        params: { path: { account: account.value, task_id: task.id } },
        body: { outcome, note: note.value, at: outcome === "ring_back" ? ringAt.value : null },
      }),
    );
    back = comes_back;
  });
  if (done) {
    ringing.value = false;
    note.value = "";
    const words = (OUTCOMES.find((one) => one.outcome === outcome)?.words ?? "Done").replace(" on …", "").toLowerCase();
    tell(`${task.contact}: ${words}${back ? `, comes back ${back}` : ""}.`);
    await touched("/today");
    await nextTick();
    document.querySelector<HTMLElement>(".call.open")?.focus();
  }
}
function onCallKey(event: KeyboardEvent, call: Schemas["TaskRow"]) {
  if (event.target instanceof HTMLInputElement) return;
  const chosen = OUTCOMES.find((one) => one.key === event.key);
  if (chosen && may.value) {
    event.preventDefault(); // a key that opens a field is not written into it
    record(call, chosen.outcome);
  } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
    const calls = data.value?.calls ?? [];
    const next = calls[calls.findIndex((one) => one.id === call.id) + (event.key === "ArrowDown" ? 1 : -1)];
    if (!next) return;
    event.preventDefault();
    open.value = next.id;
    nextTick(() => document.querySelector<HTMLElement>(".call.open")?.focus());
  }
}
/** The keys of the open call work as soon as the page is there, without pointing at it. */
onKeyStroke((event) => {
  const call = data.value?.calls.find((one) => one.id === open.value);
  if (call && onPaper(event.target) && !event.ctrlKey && !event.metaKey && !event.altKey) onCallKey(event, call);
});
const answers = ref<Record<number, string>>({});
async function answer(reply: Schemas["ReplyRow"]) {
  const text = answers.value[reply.id]?.trim();
  if (!text) return;
  const path = { account: account.value, reply_id: reply.id };
  if (await act(() => ok(api.POST("/api/accounts/{account}/replies/{reply_id}/answer", { params: { path }, body: { text, channel: reply.channel } })))) {
    tell(`Answered ${reply.contact}.`);
    delete answers.value[reply.id];
    touched("/today");
  }
}
async function seen(notice: number) {
  await act(() => ok(api.POST("/api/accounts/{account}/notices/{notice_id}/seen", { params: { path: { account: account.value, notice_id: notice } } })));
  touched("/today");
}
const LOOKED = [
  { key: "1", out: true, words: "They want out" },
  { key: "2", out: false, words: "They do not" },
] as const;
/** What may mean that they want no more: one key says whether it does. */
async function looked(reply: Schemas["ReplyRow"], out: boolean) {
  const path = { params: { path: { account: account.value, reply_id: reply.id } } };
  const done = await act(() => ok(out ? api.POST("/api/accounts/{account}/replies/{reply_id}/wants-out", path) : api.POST("/api/accounts/{account}/replies/{reply_id}/lay-aside", path)));
  if (!done) return;
  tell(out ? `${reply.contact} is opted out of ${reply.channel}s: nothing more goes out there.` : `${reply.contact} does not want out: what was held goes on.`);
  await touched("/today");
  await nextTick();
  document.querySelector<HTMLElement>(".reply.likely")?.focus();
}
function onReplyKey(event: KeyboardEvent, reply: Schemas["ReplyRow"]) {
  if (event.target !== event.currentTarget || !may.value) return;
  const chosen = LOOKED.find((one) => one.key === event.key);
  if (!chosen) return;
  event.preventDefault();
  looked(reply, chosen.out);
}
async function layAside(reply: Schemas["ReplyRow"]) {
  await act(() => ok(api.POST("/api/accounts/{account}/replies/{reply_id}/lay-aside", { params: { path: { account: account.value, reply_id: reply.id } } })));
  touched("/today");
}
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Today</h1>
      <span v-if="details" class="soft">{{ moment(details.local_now) }}</span>
      <span v-if="data" class="soft">{{ data.done_today }} done · {{ data.later }} come later</span>
    </div>
    <p v-for="one in waits?.broken" :key="`${one.channel}${one.reason}`" class="rust" role="status">▲ {{ many(one.count, one.channel) }} cannot go out: {{ one.reason }}. Tried again {{ one.again }}.</p>
    <ReadState :of="[reading, outlookRead, waitsRead, formsRead]" what="Today">
    <section v-if="data?.notices.length" class="notices" aria-label="Notices">
      <div v-for="one in data.notices" :key="one.id" class="row">
        <span class="grow">{{ one.text }} <RouterLink class="small" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink> <small class="soft">{{ moment(one.local_at) }}</small></span>
        <BButton variant="link" @click="seen(one.id)">Seen</BButton>
      </div>
    </section>
    <div v-if="data" class="columns">
      <section>
        <h2>{{ many(data.calls.length, "call") }} to make</h2>
        <p v-if="!data.calls.length" class="empty">No calls now. They appear here when a workflow asks for one.</p>
        <div
          v-for="call in data.calls" :key="call.id" class="call" :class="{ open: call.id === open }" tabindex="0"
          role="group" :aria-label="`Call ${call.contact}`" @click="open = call.id" @focus="open = call.id" @keydown="onCallKey($event, call)"
        >
          <div class="row">
            <RouterLink class="serif name" :to="`/${account}/people/${call.contact_id}`">{{ call.contact }}</RouterLink>
            <a v-if="call.mobile" class="number" :href="`tel:${call.mobile}`">{{ call.mobile }}</a><span v-else class="rust">no number</span>
            <span class="grow" />
            <small v-if="call.unwanted" class="rust">✕ {{ call.unwanted }}</small>
            <small v-if="call.late_days" class="rust">{{ many(call.late_days, "day") }} late</small>
            <small class="soft">try {{ call.tried + 1 }} of {{ call.attempts }}</small>
          </div>
          <div class="about">about {{ call.title }}<small v-if="call.assigned" class="soft"> · {{ call.assigned }}</small></div>
          <template v-if="call.id === open">
            <blockquote v-if="call.say">{{ call.say }}</blockquote>
            <p v-for="(one, number) in call.tries" :key="number" class="small soft tried">{{ one }}</p>
            <p v-if="call.last" class="gorse small">Last try: {{ call.last }}</p>
            <div v-if="may" class="outcomes">
              <BButton v-for="one in OUTCOMES" :key="one.key" variant="outline-primary" @click.stop="record(call, one.outcome)">{{ one.words }} <kbd>{{ one.key }}</kbd></BButton>
              <BFormInput v-model="note" aria-label="A word about the call" placeholder="a word about it" />
            </div>
            <form v-if="ringing" class="outcomes when" @submit.prevent="record(call, 'ring_back')">
              <label>Ring back on <input v-model="ringAt" type="datetime-local" required /></label>
              <BButton variant="primary" type="submit">Keep it</BButton> <BButton variant="link" @click="ringing = false">not now</BButton>
            </form>
          </template>
        </div>
        <h2 class="second">{{ many(data.to_dos.length, "to-do", "to-dos") }}</h2>
        <p v-if="!data.to_dos.length" class="soft">Nothing to do.</p>
        <p v-if="letters.length" class="small"><a :href="`/api/accounts/${account}/letters.pdf`" target="_blank" rel="noreferrer">Print {{ many(letters.length, "letter") }} (PDF, one to a page)</a></p>
        <div v-for="task in data.to_dos" :key="task.id" class="note row">
          <span class="grow"><span class="serif">{{ task.title }}</span><br /><span v-if="task.kind === 'letter'" class="small soft">letter to print, sign and post: </span><RouterLink class="small" :to="`/${account}/people/${task.contact_id}`">{{ task.contact }}</RouterLink> <small v-if="task.unwanted" class="rust">✕ {{ task.unwanted }} </small><small v-if="task.late_days" class="rust">{{ many(task.late_days, "day") }} late</small><details v-if="task.say" class="small"><summary>What it says</summary><blockquote>{{ task.say }}</blockquote></details></span>
          <BButton v-if="may" variant="outline-primary" @click="record(task, 'done')">Done</BButton>
        </div>
        <h2 class="second">Goes out by itself today</h2>
        <p v-if="!goesOut.length" class="soft">Nothing more today.</p>
        <p v-for="row in goesOut" :key="`${row.workflow_id}${row.channel}${row.name}`" class="goes"><span class="soft small">from {{ row.at }}</span> {{ row.count }} × {{ row.channel }} <RouterLink class="serif" :to="`/${account}/workflows/${row.workflow_id}`">{{ row.name }}</RouterLink> <small class="soft">{{ row.workflow }}</small></p>
        <p class="small"><RouterLink :to="`/${account}/diary`">The days ahead, in the diary</RouterLink></p>
      </section>
      <section>
        <ProposalList />
        <p v-for="form in apart" :key="form.id" class="small apart"><RouterLink :to="`/${account}/people/forms/${form.id}`">{{ many(form.spam, "answer") }} to “{{ form.name }}” kept apart</RouterLink>: it may be spam, and nobody has looked.</p>
        <h2>{{ many(data.replies.length, "reply", "replies") }} waiting</h2>
        <p v-if="data.strangers" class="small"><RouterLink :to="`/${account}/people/words`">{{ many(data.strangers, "email") }} from people nobody here knows</RouterLink></p>
        <p v-if="!data.replies.length" class="empty">No replies wait for an answer.</p>
        <div
          v-for="reply in data.replies" :key="reply.id" class="reply" :class="{ likely: reply.likely_out }" :tabindex="reply.likely_out ? 0 : undefined"
          :role="reply.likely_out ? 'group' : undefined" :aria-label="reply.likely_out ? `${reply.contact} may want no more` : undefined" @keydown="onReplyKey($event, reply)"
        >
          <div class="row">
            <RouterLink class="serif name" :to="`/${account}/people/${reply.contact_id}`">{{ reply.contact }}</RouterLink>
            <small class="soft">{{ reply.channel }}, {{ moment(reply.local_at) }}</small>
            <small v-if="reply.opted_out" class="rust">✕ opted out: do not write there again</small>
          </div>
          <p v-if="reply.before" class="before soft">{{ reply.before }}</p>
          <blockquote>{{ reply.text }}</blockquote>
          <template v-if="reply.likely_out">
            <p class="thrift small">▲ This may mean that they want no more {{ reply.channel }}s. Marketing to them by {{ reply.channel }} waits until you say.</p>
            <div v-if="may" class="outcomes">
              <BButton v-for="one in LOOKED" :key="one.key" variant="outline-primary" @click="looked(reply, one.out)">{{ one.words }} <kbd>{{ one.key }}</kbd></BButton>
            </div>
          </template>
          <form v-if="may" class="row" @submit.prevent="answer(reply)">
            <BFormInput v-if="!reply.opted_out" v-model="answers[reply.id]" class="grow" :aria-label="`Answer ${reply.contact}`" :placeholder="`Answer by ${reply.channel}`" />
            <BButton v-if="!reply.opted_out" variant="primary" type="submit" :disabled="!answers[reply.id]?.trim()">Answer</BButton>
            <BButton v-if="!reply.likely_out" variant="outline-primary" @click="layAside(reply)">Needs no answer</BButton>
          </form>
        </div>
        <template v-if="held.length">
          <h2 class="second">{{ many(waits?.counts.held ?? 0, "message waits", "messages wait") }} to be let go</h2>
          <div v-for="one in held" :key="one.id" class="note">
            <RouterLink class="serif name" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink> <small class="soft">{{ one.channel }} “{{ one.name }}”, {{ one.since }}</small>
            <details class="small"><summary>What it says</summary><blockquote><strong v-if="one.subject">{{ one.subject }}<br /></strong>{{ one.body }}</blockquote></details>
            <p v-if="mayDo('people')" class="row"><BButton variant="outline-primary" @click="settle(one.id, 'let_go')">Let it go</BButton><BButton variant="link" @click="settle(one.id, 'drop')">do not send it</BButton></p>
          </div>
        </template>
      </section>
    </div>
    </ReadState>
  </div>
</template>

<style scoped>
.apart { margin: 0 0 18px; }
.columns { margin-top: 16px; display: grid; grid-template-columns: 1.15fr 1fr; gap: 44px; }
.notices { border-left: 3px solid var(--sea); padding: 2px 0 2px 14px; margin-bottom: 16px; }
.notices .row { padding: 3px 0; }
h2 { border-bottom: 1px solid var(--ink); padding-bottom: 5px; }
.second { margin-top: 28px; }
.said { min-height: 1.4em; margin: 4px 0; }
.call { padding: 9px 10px 9px 12px; margin-left: -12px; border-bottom: 1px solid var(--rule); }
.call.open { background: var(--mist); box-shadow: inset 3px 0 0 var(--thrift); }
.name { font-size: 17px; }
.number { font-size: 16px; font-weight: 600; }
.about { color: var(--thrift); }
blockquote { margin: 8px 0; font: 16px/1.45 var(--serif); white-space: pre-line; overflow-wrap: anywhere; }
.outcomes { display: flex; flex-wrap: wrap; gap: 8px; }
.tried { margin: 2px 0; }
.when { margin-top: 8px; align-items: center; }
.when input { margin-left: 8px; }
.outcomes input { flex: 1; min-width: 9rem; }
.reply { padding: 9px 0 12px; border-bottom: 1px solid var(--rule); }
.reply.likely { padding-left: 12px; margin-left: -12px; box-shadow: inset 3px 0 0 var(--thrift); }
.reply.likely .outcomes { margin-bottom: 8px; }
.before { font-size: 13.5px; margin: 2px 0 0; border-left: 2px solid var(--rule); padding-left: 10px; overflow: hidden; display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; }
.goes { border-top: 1px solid var(--rule); padding: 5px 0; margin: 0; }
@media (max-width: 760px) { .columns { grid-template-columns: 1fr; gap: 26px; } .outcomes button { flex: 1 0 40%; padding: 9px; } }
</style>
