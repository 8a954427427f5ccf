<script setup lang="ts">
/** Outside: any contact's simulated phone and mailbox. Read what came, answer as them, follow a link; and the demo's clock. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed, nextTick, reactive, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";

const account = useAccount();
const { data: details } = useAccountDetails();
const mayDo = useMay();
const route = useRoute();
const router = useRouter();
const touched = useTouched();
const q = ref("");
const chosen = computed(() => Number(route.query.contact ?? 0));
const channel = ref<"text" | "email" | "other">("text");

const { data: devices, ...devicesRead } = useRead("/outside", () => ({ query: { q: q.value } }), { live: true, placeholderData: keepPreviousData });
const { data: device, ...deviceRead } = useRead("/outside/{contact_id}", () => ({ path: { contact_id: chosen.value } }), { live: true, enabled: () => chosen.value > 0 });
/** One's own phone and mailbox, with the tests one sent to oneself. */
const isMine = computed(() => route.query.mine !== undefined);
const { data: mine, ...mineRead } = useRead("/outside/mine", undefined, { live: true, enabled: isMine });
/** The stand-in for an advert with a form of its own. */
const advert = computed(() => route.query.advert !== undefined);
const { data: sources, ...sourcesRead } = useRead("/lead-sources");
const typed = reactive({ source: 0, name: "", email: "", phone: "", wish: "" });
watch(sources, (now) => { if (!typed.source) typed.source = now?.[0]?.id ?? 0; }, { immediate: true });
const sent = ref("");
async function fillIn() {
  await act(async () => {
    const came = await ok(api.POST("/api/accounts/{account}/outside-advert", { params: { path: { account: account.value } }, body: { ...typed } }));
    sent.value = came.state === "taken" ? "It came in as a contact." : `It is kept there: ${came.reason}.`;
  });
}
/** Somebody whom the account may not know. */
const stranger = computed(() => route.query.stranger !== undefined);
const unknown = reactive({ channel: "text" as "text" | "email", address: "", name: "", text: "" });
const answer = ref("");
async function sayAsStranger() {
  answer.value = "";
  await act(async () => {
    answer.value = (await ok(api.POST("/api/accounts/{account}/outside-stranger", { params: { path: { account: account.value } }, body: { ...unknown } }))).words;
    unknown.text = "";
  });
}
const items = computed(() => (device.value?.items ?? []).filter((item) => (channel.value === "other" ? !["text", "email"].includes(item.channel) : item.channel === channel.value)));
const others = computed(() => (device.value?.items ?? []).filter((item) => !["text", "email"].includes(item.channel)).length);
const thread = ref<HTMLElement>();
watch(
  () => [items.value.length, channel.value, chosen.value],
  () => nextTick(() => thread.value?.scrollTo(0, thread.value.scrollHeight)),
);
function show(contact: number) {
  router.replace({ query: { contact } });
}

const { pending, act } = usePending();
const words = ref("");
async function say() {
  const text = words.value.trim();
  if (!text || channel.value === "other") return;
  const by = channel.value;
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/outside/{contact_id}/say", {
        params: { path: { account: account.value, contact_id: chosen.value } },
        body: { channel: by, text },
      }),
    ),
  );
  if (done) words.value = "";
  touched("/outside/{contact_id}", "/outside/mine");
}
const start = ref("");
async function book(talk: number) {
  const path = { account: account.value, contact_id: chosen.value };
  const done = await act(() => ok(api.POST("/api/accounts/{account}/outside/{contact_id}/book", { params: { path }, body: { talk, start: start.value } })));
  if (done) start.value = "";
  touched("/outside/{contact_id}", "/outside/mine");
}
async function move(hours: number) {
  await act(async () => {
    const answer = await ok(api.POST("/api/accounts/{account}/clock", { params: { path: { account: account.value } }, body: { hours } }));
    tell(`It is ${moment(answer.local_now)} now; ${many(answer.moments, "moment")} at which something was due went by.`);
  });
  touched("everything");
}
/** A text cut at its links, so that each can be followed as the contact would. */
function pieces(text: string) {
  return text.split(/(https?:\/\/\S+)/).map((piece) => ({ piece, link: /^https?:\/\//.test(piece) }));
}
</script>

<template>
  <div class="page">
    <div class="row">
      <h1>Outside</h1>
      <span class="soft">Simulated phones and mailboxes: nothing here leaves this machine.</span>
    </div>
    <div v-if="details && mayDo('clock')" class="row clock">
      <span>The clock stands at <strong>{{ moment(details.local_now) }}</strong>. Move it, for all accounts, and let happen what falls due:</span>
      <BButton variant="outline-primary" :disabled="pending" @click="move(0)">to what is due next here</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(1)">an hour on</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(24)">a day on</BButton>
      <BButton variant="outline-primary" :disabled="pending" @click="move(72)">three days on</BButton>
    </div>
    <ReadState :of="[devicesRead, sourcesRead]" what="Outside">
    <div class="two">
      <nav aria-label="Whose phone">
        <FormRow label="Whose phone and mailbox" class="wide"><BFormInput v-model.trim="q" type="search" placeholder="search by name or number" /></FormRow>
        <p class="own" :class="{ on: isMine }"><BButton variant="link" @click="router.replace({ query: { mine: 1 } })">My own phone and mailbox</BButton></p>
        <p v-if="sources?.length" class="own" :class="{ on: advert }"><BButton variant="link" @click="router.replace({ query: { advert: 1 } })">An advert with a form</BButton></p>
        <p class="own" :class="{ on: stranger }"><BButton variant="link" @click="router.replace({ query: { stranger: 1 } })">Somebody nobody knows</BButton></p>
        <ul>
          <li v-for="one in devices" :key="one.contact_id" :class="{ on: one.contact_id === chosen }">
            <BButton variant="link" @click="show(one.contact_id)">{{ one.contact }}</BButton><small class="soft">{{ one.last }}</small>
          </li>
        </ul>
        <p v-if="devices && !devices.length" class="soft">Nothing has come to anybody yet{{ q ? " of that name" : "" }}.</p>
      </nav>
      <ReadState :of="[deviceRead, mineRead]" what="This phone and mailbox">
      <section v-if="isMine && mine" class="device" aria-label="My own phone and mailbox">
        <div class="row head"><h2>{{ mine.name }}</h2> <span class="soft">{{ mine.mobile || "no number" }} · {{ mine.email }}</span></div>
        <div class="thread" tabindex="0" role="log" aria-label="Tests to myself">
          <p v-if="!mine.items.length" class="empty">Nothing has come yet. Rehearse a workflow and send its whole series to yourself, or one message from its notes.</p>
          <article v-for="item in mine.items" :key="item.id" :class="{ email: item.channel === 'email' }">
            <h3 v-if="item.subject">{{ item.subject }}</h3>
            <p>{{ item.text }}</p>
            <small class="soft">{{ item.channel }}, from {{ item.from_name }}, {{ item.local_at }}</small>
          </article>
        </div>
      </section>
      <section v-else-if="advert && sources?.length" class="device" aria-label="An advert with a form">
        <div class="row head"><h2>An advert with a form</h2> <span class="soft">what is sent here goes to a lead source of the account</span></div>
        <form class="ad" @submit.prevent="fillIn">
          <FormRow label="Shown for"><BFormSelect v-model="typed.source"><option v-for="one in sources" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect></FormRow>
          <FormRow label="Full name"><BFormInput v-model="typed.name" /></FormRow><FormRow label="Email"><BFormInput v-model="typed.email" /></FormRow><FormRow label="Phone"><BFormInput v-model="typed.phone" /></FormRow>
          <FormRow label="What would you like?"><BFormInput v-model="typed.wish" /></FormRow>
          <p class="row"><BButton variant="primary" type="submit" :disabled="pending">Send it</BButton><span role="status" class="soft">{{ sent }}</span></p>
        </form>
      </section>
      <section v-else-if="stranger" class="device" aria-label="Somebody nobody knows">
        <div class="row head"><h2>Somebody nobody knows</h2> <span class="soft">writes to the account’s number or address</span></div>
        <form class="ad" @submit.prevent="sayAsStranger">
          <p class="row"><BFormRadio v-model="unknown.channel" value="text" name="unknown-channel">by text</BFormRadio><BFormRadio v-model="unknown.channel" value="email" name="unknown-channel">by email</BFormRadio></p>
          <FormRow :label="unknown.channel === 'text' ? 'From the number' : 'From the address'"><BFormInput v-model.trim="unknown.address" required :placeholder="unknown.channel === 'text' ? '07700 900321' : 'somebody@example.com'" /></FormRow>
          <FormRow v-if="unknown.channel === 'email'" label="Their name"><BFormInput v-model="unknown.name" /></FormRow>
          <FormRow label="What they write"><BFormTextarea v-model="unknown.text" rows="3" required maxlength="2000" /></FormRow>
          <p class="row"><BButton variant="primary" type="submit" :disabled="pending">Send it</BButton><span role="status" class="soft">{{ answer }}<template v-if="answer.startsWith('Kept apart')"> See <RouterLink :to="`/${account}/people/words`">incoming words</RouterLink>.</template></span></p>
        </form>
      </section>
      <section v-else-if="device" class="device" :aria-label="`Phone and mailbox of ${device.contact}`">
        <div class="row head">
          <h2>{{ device.contact }}</h2>
          <BFormRadio v-model="channel" value="text" name="channel">phone <span class="soft">{{ device.mobile || "none" }}</span></BFormRadio>
          <BFormRadio v-model="channel" value="email" name="channel">mailbox <span class="soft">{{ device.email || "none" }}</span></BFormRadio>
          <BFormRadio v-if="others" v-model="channel" value="other" name="channel">letters and the rest <span class="soft">{{ others }}</span></BFormRadio>
        </div>
        <div v-if="device.talks.length || device.known.length" class="services">
          <p v-for="one in device.known" :key="one">{{ one }}</p>
          <form v-for="talk in device.talks" :key="talk.id" class="row" @submit.prevent="book(talk.id)">
            <span v-if="talk.booked" class="kelp">✓ The booking assistant booked “{{ talk.type }}” for {{ talk.booked }}.</span>
            <template v-else>
              <span>The booking assistant is to book “{{ talk.type }}”<template v-if="talk.opening">, and began with “{{ talk.opening }}”</template>.</span>
              <FormRow label="When" hides-label><BFormInput v-model="start" type="datetime-local" required /></FormRow>
              <BButton variant="primary" type="submit" :disabled="pending || !start">Book it</BButton>
            </template>
          </form>
        </div>
        <div ref="thread" class="thread" tabindex="0" role="log" aria-label="Messages">
          <p v-if="!items.length" class="empty">Nothing has come {{ channel === "text" ? "to this phone" : channel === "email" ? "to this mailbox" : "any other way" }} yet{{ device.items.length ? `, but something is ${channel === "text" ? "in the mailbox" : "on the phone"}` : "" }}.<template v-if="details && mayDo('clock')"> A message that waits for the sending hours comes when the clock gets there: move it on above.</template></p>
          <article v-for="item in items" :key="item.id" :class="{ mine: item.inbound, email: item.channel === 'email' }">
            <h3 v-if="item.subject">{{ item.subject }}</h3>
            <p><template v-for="({ piece, link }, n) in pieces(item.text)" :key="n"><a v-if="link" :href="piece" target="_blank" rel="noreferrer">{{ piece }}</a><template v-else>{{ piece }}</template></template></p>
            <small class="soft">{{ ["text", "email"].includes(item.channel) ? "" : `${item.channel}, ` }}{{ item.inbound ? device.first_name || device.contact : item.from_name }}, {{ item.local_at }}{{ item.report === "on its way" ? ", on its way" : "" }}</small>
          </article>
        </div>
        <form v-if="channel !== 'other'" class="row" @submit.prevent="say">
          <BFormInput v-model="words" class="grow" :aria-label="`Write as ${device.contact}`" :placeholder="`Write as ${device.first_name || device.contact}, by ${channel}`" />
          <BButton variant="primary" type="submit" :disabled="pending || !words.trim()">Send</BButton>
        </form>
      </section>
      <p v-else class="empty">Choose somebody. What the account sent them is on their phone and in their mailbox; what you write there comes back as their reply.</p>
      </ReadState>
    </div>
    </ReadState>
  </div>
</template>

<style scoped>
.clock { border: 1px solid var(--rule); border-left: 3px solid var(--gorse); background: var(--paper); padding: 9px 14px; margin: 12px 0 18px; gap: 8px 10px; }
.two { display: grid; grid-template-columns: 260px minmax(0, 620px); gap: 40px; }
.wide, .wide input { width: 100%; }
.own { margin: 10px 0 0; padding: 6px 8px; border-bottom: 1px solid var(--rule); }
.own.on { background: var(--mist); box-shadow: inset 3px 0 0 var(--sea); }
ul { list-style: none; padding: 0; margin: 10px 0; max-height: 54vh; overflow: auto; }
li { display: flex; justify-content: space-between; align-items: baseline; gap: 8px; padding: 6px 8px; border-bottom: 1px solid var(--rule); }
li button { text-decoration: none; font-family: var(--serif); font-size: 16px; text-align: left; }
li.on { background: var(--mist); box-shadow: inset 3px 0 0 var(--sea); }
.device { border: 1px solid var(--rule); background: var(--paper); }
.head { padding: 12px 18px; border-bottom: 1px solid var(--rule); }
.head label > span { display: inline; }
.services { padding: 6px 18px; border-bottom: 1px solid var(--rule); }
.services p, .services form { margin: 5px 0; padding: 0; border: 0; }
.thread { height: 48vh; overflow: auto; padding: 16px 18px; display: flex; flex-direction: column; gap: 12px; }
article { max-width: 82%; border-left: 2px solid var(--sea); padding: 2px 0 2px 12px; align-self: flex-start; }
article.mine { align-self: flex-end; border-left: 0; border-right: 2px solid var(--thrift); padding: 2px 12px 2px 0; text-align: right; }
article.email { max-width: 100%; }
article p { margin: 0; white-space: pre-line; font: 16px/1.45 var(--serif); overflow-wrap: anywhere; }
.ad { display: grid; gap: 10px; max-width: 26rem; border-top: 0; }
.ad input:not([type="radio"]), .ad select, .ad textarea { width: 100%; }
form { padding: 12px 18px; border-top: 1px solid var(--rule); }
@media (max-width: 760px) { .two { grid-template-columns: 1fr; gap: 16px; } ul { max-height: 22vh; } }
</style>
