<script setup lang="ts">
/** Who has written and waits: what may be a refusal is decided by a key, the rest is answered where all of it stands. */
import { nextTick } from "vue";

import type { Schemas } from "@/api/client";
import { DECISIONS, useReplies } from "@/shared/useReplies";
import EmptyState from "@/ui/EmptyState.vue";
import StateMark from "@/ui/StateMark.vue";
import { many, moment } from "@/ui/words";

type Row = Schemas["WaitingRow"];
const props = defineProps<{ replies: Row[]; strangers: number; may: boolean }>();
const { decide, done } = useReplies();
async function looked(one: Row, out: boolean) {
  if (!(await decide(one, out))) return;
  await nextTick();
  document.querySelector<HTMLElement>(".reply.likely")?.focus();
}
function onReplyKey(event: KeyboardEvent, one: Row) {
  if (event.target !== event.currentTarget || !props.may) return;
  const chosen = DECISIONS.find((decision) => decision.key === event.key);
  if (!chosen) return;
  event.preventDefault();
  void looked(one, chosen.out);
}
</script>

<template>
  <h2>{{ many(replies.length, "person waits", "people wait") }} for an answer</h2>
  <p v-if="strangers" class="small">
    <RouterLink :to="{ name: 'words' }">{{ many(strangers, "email") }} from people nobody here knows</RouterLink>
  </p>
  <EmptyState v-if="!replies.length">Nobody waits for an answer.</EmptyState>
  <div
    v-for="reply in replies"
    :key="reply.contact_id"
    class="reply"
    :class="{ likely: reply.likely_out }"
    :tabindex="reply.likely_out ? 0 : undefined"
    :role="reply.likely_out ? 'group' : undefined"
    :aria-label="reply.likely_out ? `${reply.contact} may want no more` : undefined"
    @keydown="onReplyKey($event, reply)">
    <div class="row">
      <RouterLink class="serif name" :to="{ name: 'replies', params: { contact: reply.contact_id } }">{{ reply.contact }}</RouterLink>
      <small class="soft">{{
        [reply.channel, moment(reply.local_at), reply.assigned && `${reply.assigned}’s`].filter(Boolean).join(", ")
      }}</small>
    </div>
    <p v-if="reply.before" class="before soft">{{ reply.before }}</p>
    <blockquote>{{ reply.text }}</blockquote>
    <template v-if="reply.likely_out">
      <p class="thrift small">
        <StateMark is="look" /> This may mean that they want no more {{ reply.channel }}s. Marketing to them by {{ reply.channel }} waits
        until you say.
      </p>
      <div v-if="may" class="outcomes">
        <BButton v-for="one in DECISIONS" :key="one.key" variant="outline-primary" @click="looked(reply, one.out)"
          >{{ one.words }} <kbd>{{ one.key }}</kbd></BButton
        >
      </div>
    </template>
    <p v-else-if="may" class="row">
      <RouterLink
        class="btn btn-primary"
        :to="{ name: 'replies', params: { contact: reply.contact_id } }"
        :aria-label="`Answer ${reply.contact}`"
        >Answer</RouterLink
      >
      <BButton variant="link" :aria-label="`${reply.contact} needs no answer`" @click="done(reply)">Needs no answer</BButton>
    </p>
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
