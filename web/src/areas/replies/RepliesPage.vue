<script setup lang="ts">
/** Replies from all channels: who waits at the left, what was said in the middle, the person beside it. */
import { onKeyStroke, refDebounced } from "@vueuse/core";
import { computed, defineAsyncComponent, nextTick, ref, useTemplateRef, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { api, ok } from "@/api/client";
import { useMay, useRead } from "@/queries/account";
import { useAccount, useAccountDetails, useSession } from "@/queries/session";
import { useReplies } from "@/shared/useReplies";
import EmptyState from "@/ui/EmptyState.vue";
import { onPaper } from "@/ui/keys";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { many, several } from "@/ui/words";
import AboutThem from "./AboutThem.vue";
import AnswerBox from "./AnswerBox.vue";
import AssistantTalks from "./AssistantTalks.vue";
import DialogueLines from "./DialogueLines.vue";
import ReplyLedger from "./ReplyLedger.vue";

const ProposalList = defineAsyncComponent(() => import("@/shared/ProposalList.vue"));
type Shown = "waiting" | "mine" | "nobody" | "put_off" | "by_itself" | "all";
const route = useRoute();
const router = useRouter();
const account = useAccount();
const { data: details } = useAccountDetails();
const { session } = useSession();
const mayDo = useMay();
const may = computed(() => mayDo("people"));
const { act, after, decide, done, pending } = useReplies();

const show = computed(() => (route.query.show ?? "waiting") as Shown);
const words = ref(String(route.query.words ?? ""));
const sought = refDebounced(words, 300);
const finding = ref(!!words.value);
const page = ref(0);
watch([show, sought], () => (page.value = 0));
const query = computed(() => ({ ...(show.value !== "waiting" && { show: show.value }), ...(sought.value && { words: sought.value }) }));
const asked = () => ({ query: { show: show.value, words: sought.value, page: page.value } });
const { data: list, ...listRead } = useRead("/replies", asked, { live: true, placeholderData: (before) => before });
const talks = computed(() => list.value?.with_assistant ?? []);
const rows = computed(() => [...(list.value?.rows ?? []), ...talks.value]);
const WAYS = computed(() => [
  { show: "waiting", words: "Waiting", count: list.value?.counts.waiting },
  { show: "mine", words: "Mine", count: list.value?.counts.mine },
  { show: "nobody", words: "Nobody’s", count: list.value?.counts.nobody },
  { show: "all", words: "All", count: undefined },
]);
const WHAT: Record<string, string> = { word: "by a word", rule: "by a rule", workflow: "by workflows", assistant: "by the assistant" };
const byItself = computed(() => Object.entries(list.value?.counts.by_itself ?? {}));

const chosen = computed(() => Number(route.params.contact) || undefined);
const of = () => ({ path: { contact_id: chosen.value ?? 0 } });
const { data: dialogue, ...dialogueRead } = useRead("/replies/{contact_id}", of, { live: true, enabled: () => !!chosen.value });
const { data: contact, ...contactRead } = useRead("/contacts/{contact_id}", of, { live: true, enabled: () => !!chosen.value });
const earlier = ref<typeof dialogue.value>();
watch(chosen, () => (earlier.value = undefined));
const said = computed(() => [...(earlier.value?.said ?? []), ...(dialogue.value?.said ?? [])]);
const more = computed(() => (earlier.value ?? dialogue.value)?.more);
async function readEarlier() {
  const before = said.value[0]?.at;
  if (!before || !chosen.value) return;
  await act(async () => {
    const params = { path: { account: account.value, contact_id: chosen.value ?? 0 }, query: { before } };
    const found = await ok(api.GET("/api/accounts/{account}/replies/{contact_id}", { params }));
    earlier.value = { ...found, said: [...found.said, ...(earlier.value?.said ?? [])] };
  });
}
const now = computed(() => dialogue.value && contact.value && { ...dialogue.value, contact: contact.value.name });
const box = useTemplateRef("box");
const assistant = useTemplateRef("assistant");
const scroller = useTemplateRef<HTMLElement>("scroller");
watch([chosen, dialogue], async () => {
  await nextTick();
  if (scroller.value) scroller.value.scrollTop = scroller.value.scrollHeight;
});

const to = (id?: number) => router.push({ name: "replies", params: { contact: id ?? "" }, query: query.value });
/** The one that will stand where this one stands. */
function next() {
  const at = rows.value.findIndex((one) => one.contact_id === chosen.value);
  return (rows.value[at + 1] ?? rows.value[at - 1])?.contact_id;
}
async function finish() {
  const then = next();
  if (now.value && (await done(now.value))) await to(then);
}
const asking = ref<"" | "give" | "later">("");
watch(chosen, () => (asking.value = ""));
const at = () => ({ params: { path: { account: account.value, contact_id: chosen.value ?? 0 } } });
async function give(person: string) {
  asking.value = "";
  const body = { person: Number(person) || null };
  await act(() => ok(api.POST("/api/accounts/{account}/replies/{contact_id}/give", { ...at(), body })));
  await after();
}
async function putOff(until: string | null) {
  asking.value = "";
  const then = next();
  const did = await act(() => ok(api.POST("/api/accounts/{account}/replies/{contact_id}/put-off", { ...at(), body: { until } })));
  if (did && until) await to(then);
  await after();
}
async function ask(what: "give" | "later") {
  asking.value = asking.value === what ? "" : what;
  await nextTick();
  document.querySelector<HTMLElement>(".asked select, .asked button")?.focus();
}
onKeyStroke((event) => {
  const link = event.target instanceof HTMLElement && event.target.matches("a.name");
  if (event.ctrlKey || event.metaKey || event.altKey || !(onPaper(event.target) || link)) return;
  const here = rows.value.findIndex((one) => one.contact_id === chosen.value);
  const KEYS: Record<string, () => unknown> = {
    ArrowDown: () => to(rows.value[here + 1]?.contact_id ?? chosen.value),
    ArrowUp: () => to(rows.value[here - 1]?.contact_id ?? chosen.value),
    ...(may.value &&
      now.value && {
        g: () => ask("give"),
        p: () => ask("later"),
        d: () => now.value?.waits && finish(),
        r: () => box.value?.focus(),
        t: () => assistant.value?.takeOver(),
        ...(now.value.to_decide && { "1": () => now.value && decide(now.value, true), "2": () => now.value && decide(now.value, false) }),
      }),
  };
  const does = KEYS[event.key.length === 1 ? event.key.toLowerCase() : event.key];
  if (!does) return;
  event.preventDefault();
  void does();
});
</script>

<template>
  <div class="replies" :class="{ one: chosen }">
    <section class="ledger" aria-label="Who has written">
      <PageHead title="Replies"
        ><BButton variant="link" :aria-expanded="finding" @click="((finding = !finding), (words = ''))">Find words</BButton></PageHead
      >
      <BFormInput
        v-if="finding"
        v-model="words"
        type="search"
        autofocus
        aria-label="Words that were said"
        placeholder="words that were said"
        maxlength="200" />
      <nav class="ways" aria-label="Which replies">
        <RouterLink
          v-for="one in WAYS"
          :key="one.show"
          :to="{ name: 'replies', params: { contact: chosen ?? '' }, query: one.show === 'waiting' ? {} : { show: one.show } }"
          :aria-current="show === one.show ? 'page' : undefined"
          >{{ one.words }} {{ one.count ?? "" }}</RouterLink
        >
      </nav>
      <ReadState :of="listRead" what="Replies">
        <ReplyLedger :rows="list?.rows ?? []" :talks="talks" :show="show" :chosen="chosen" :may="may" :query="query" />
        <EmptyState v-if="list && !list.rows.length">{{
          sought ? "Nobody said that." : show === "waiting" ? "Nobody waits for an answer." : "Nobody here."
        }}</EmptyState>
        <p v-if="page || list?.more" class="row">
          <BButton v-if="page" variant="link" @click="page--">Before</BButton>
          <BButton v-if="list?.more" variant="link" @click="page++">More</BButton>
        </p>
        <p v-if="list?.counts.strangers" class="small">
          <RouterLink :to="{ name: 'words' }">{{ many(list.counts.strangers, "email") }} from people nobody here knows</RouterLink>
        </p>
        <p v-if="list?.counts.put_off" class="small">
          <RouterLink :to="{ name: 'replies', query: { show: 'put_off' } }">{{ list.counts.put_off }} put off</RouterLink>
          <span class="soft"> the next to {{ list.counts.next_put_off }}</span>
        </p>
        <p v-if="byItself.length" class="small">
          <RouterLink :to="{ name: 'replies', query: { show: 'by_itself' } }"
            >{{ byItself.reduce((sum, [, count]) => sum + count, 0) }} answered without you</RouterLink
          >
          <span class="soft"> in a week: {{ several(byItself.map(([by, count]) => `${count} ${WHAT[by] ?? by}`)) }}</span>
        </p>
      </ReadState>
      <ProposalList v-if="show === 'waiting' && !sought" />
    </section>

    <section v-if="chosen" class="middle" :aria-label="`With ${contact?.name ?? 'them'}`">
      <ReadState :of="[dialogueRead, contactRead]" what="What was said">
        <template v-if="dialogue && contact && now">
          <header>
            <RouterLink class="back" :to="{ name: 'replies', query }">All replies</RouterLink>
            <h2>{{ contact.name }}</h2>
            <span class="soft">{{ contact.number || contact.email }}</span>
            <span class="grow" />
            <template v-if="may">
              <BButton variant="link" :aria-expanded="asking === 'give'" @click="ask('give')">Give to… <kbd>G</kbd></BButton>
              <BButton variant="link" :aria-expanded="asking === 'later'" @click="ask('later')">Put off… <kbd>P</kbd></BButton>
              <BButton v-if="dialogue.waits" variant="link" :disabled="pending" @click="finish">Done <kbd>D</kbd></BButton>
            </template>
          </header>
          <p v-if="asking === 'give'" class="asked">
            <BFormSelect
              :model-value="String(dialogue.assigned ?? '')"
              aria-label="Give it to"
              :options="[{ value: '', text: 'nobody' }, ...dialogue.team.map((one) => ({ value: String(one.id), text: one.name }))]"
              @update:model-value="give(String($event))" />
          </p>
          <p v-if="asking === 'later'" class="asked row">
            <BButton v-for="one in dialogue.later" :key="one.until" variant="outline-primary" @click="putOff(one.until)">{{
              one.words
            }}</BButton>
            <BButton v-if="dialogue.put_off" variant="link" @click="putOff(null)">it waits again</BButton>
          </p>
          <p v-if="dialogue.to_decide" class="decide thrift">
            <StateMark is="look" /> Something of it reads like a refusal. What is to go to them there waits until you decide.
            <template v-if="may"
              ><BButton variant="outline-primary" :disabled="pending" @click="decide(now, true)">They want out <kbd>1</kbd></BButton>
              <BButton variant="outline-primary" :disabled="pending" @click="decide(now, false)"
                >They do not <kbd>2</kbd></BButton
              ></template
            >
          </p>
          <div ref="scroller" class="said" tabindex="0" role="log" :aria-label="`What was said with ${contact.name}`">
            <p v-if="more"><BButton variant="link" :disabled="pending" @click="readEarlier">What was said before</BButton></p>
            <DialogueLines :said="said" :account="details?.name ?? ''" />
          </div>
          <AssistantTalks
            v-if="dialogue.talks"
            ref="assistant"
            :talks="dialogue.talks"
            :dialogue="dialogue"
            :contact="contact"
            :may="may" />
          <AnswerBox v-if="may" ref="box" :contact="contact" :dialogue="dialogue" :me="session?.name?.split(' ')[0] ?? ''" />
        </template>
      </ReadState>
    </section>
    <EmptyState v-else class="middle none"
      >Choose somebody, and what was said with them stands here. <kbd>↓</kbd> goes from one to the next.</EmptyState
    >
    <AboutThem v-if="chosen && contact" :key="contact.id" class="about" :contact="contact" />
  </div>
</template>

<style scoped src="./replies.css"></style>
