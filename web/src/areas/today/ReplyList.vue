<script setup lang="ts">
/** Replies that wait for a person: answered in place, laid aside, or what may be a refusal decided by a key. */
import { nextTick, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import EmptyState from "@/ui/EmptyState.vue";
import StateMark from "@/ui/StateMark.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, moment } from "@/ui/words";

const props = defineProps<{ replies: Schemas["ReplyRow"][]; strangers: number; may: boolean }>();
const account = useAccount();
const touched = useTouched();
const { act } = usePending();
const answers = ref<Record<number, string>>({});
async function answer(reply: Schemas["ReplyRow"]) {
  const text = answers.value[reply.id]?.trim();
  if (!text) return;
  const path = { account: account.value, reply_id: reply.id };
  if (
    await act(() =>
      ok(api.POST("/api/accounts/{account}/replies/{reply_id}/answer", { params: { path }, body: { text, channel: reply.channel } })),
    )
  ) {
    tell(`Answered ${reply.contact}.`);
    delete answers.value[reply.id];
    void touched("/today");
  }
}
const LOOKED = [
  { key: "1", out: true, words: "They want out" },
  { key: "2", out: false, words: "They do not" },
] as const;
/** What may mean that they want no more: one key says whether it does. */
async function looked(reply: Schemas["ReplyRow"], out: boolean) {
  const path = { params: { path: { account: account.value, reply_id: reply.id } } };
  const done = await act(() =>
    ok(
      out
        ? api.POST("/api/accounts/{account}/replies/{reply_id}/wants-out", path)
        : api.POST("/api/accounts/{account}/replies/{reply_id}/lay-aside", path),
    ),
  );
  if (!done) return;
  tell(
    out
      ? `${reply.contact} is opted out of ${reply.channel}s: nothing more goes out there.`
      : `${reply.contact} does not want out: what was held goes on.`,
  );
  await touched("/today");
  await nextTick();
  document.querySelector<HTMLElement>(".reply.likely")?.focus();
}
function onReplyKey(event: KeyboardEvent, reply: Schemas["ReplyRow"]) {
  if (event.target !== event.currentTarget || !props.may) return;
  const chosen = LOOKED.find((one) => one.key === event.key);
  if (!chosen) return;
  event.preventDefault();
  void looked(reply, chosen.out);
}
async function layAside(reply: Schemas["ReplyRow"]) {
  await act(() =>
    ok(
      api.POST("/api/accounts/{account}/replies/{reply_id}/lay-aside", {
        params: { path: { account: account.value, reply_id: reply.id } },
      }),
    ),
  );
  void touched("/today");
}
</script>

<template>
  <h2>{{ many(replies.length, "reply", "replies") }} waiting</h2>
  <p v-if="strangers" class="small">
    <RouterLink :to="{ name: 'words' }">{{ many(strangers, "email") }} from people nobody here knows</RouterLink>
  </p>
  <EmptyState v-if="!replies.length">No replies wait for an answer.</EmptyState>
  <div
    v-for="reply in replies"
    :key="reply.id"
    class="reply"
    :class="{ likely: reply.likely_out }"
    :tabindex="reply.likely_out ? 0 : undefined"
    :role="reply.likely_out ? 'group' : undefined"
    :aria-label="reply.likely_out ? `${reply.contact} may want no more` : undefined"
    @keydown="onReplyKey($event, reply)">
    <div class="row">
      <RouterLink class="serif name" :to="{ name: 'contact', params: { contact: reply.contact_id } }">{{ reply.contact }}</RouterLink>
      <small class="soft">{{ reply.channel }}, {{ moment(reply.local_at) }}</small>
      <small v-if="reply.opted_out" class="rust"><StateMark is="failed" /> opted out: do not write there again</small>
    </div>
    <p v-if="reply.before" class="before soft">{{ reply.before }}</p>
    <blockquote>{{ reply.text }}</blockquote>
    <template v-if="reply.likely_out">
      <p class="thrift small">
        <StateMark is="look" /> This may mean that they want no more {{ reply.channel }}s. Marketing to them by {{ reply.channel }} waits
        until you say.
      </p>
      <div v-if="may" class="outcomes">
        <BButton v-for="one in LOOKED" :key="one.key" variant="outline-primary" @click="looked(reply, one.out)"
          >{{ one.words }} <kbd>{{ one.key }}</kbd></BButton
        >
      </div>
    </template>
    <form v-if="may" class="row" @submit.prevent="answer(reply)">
      <BFormInput
        v-if="!reply.opted_out"
        v-model="answers[reply.id]"
        class="grow"
        :aria-label="`Answer ${reply.contact}`"
        :placeholder="`Answer by ${reply.channel}`" />
      <BButton
        v-if="!reply.opted_out"
        variant="primary"
        type="submit"
        :aria-label="`Answer ${reply.contact} now`"
        :disabled="!answers[reply.id]?.trim()"
        >Answer</BButton
      >
      <BButton v-if="!reply.likely_out" variant="outline-primary" :aria-label="`${reply.contact} needs no answer`" @click="layAside(reply)"
        >Needs no answer</BButton
      >
    </form>
  </div>
</template>

<style scoped>
.reply {
  padding: 9px 0 12px;
  border-bottom: 1px solid var(--rule);
}
.reply.likely {
  padding-left: 12px;
  margin-left: -12px;
  box-shadow: inset 3px 0 0 var(--thrift);
}
.reply.likely .outcomes {
  margin-bottom: 8px;
}
.before {
  font-size: 13.5px;
  margin: 2px 0 0;
  border-left: 2px solid var(--rule);
  padding-left: 10px;
  overflow: hidden;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
}
</style>
