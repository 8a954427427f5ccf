<script setup lang="ts">
/** The last line of a dialogue, written by whoever reads it: by a channel that is open, or as a note for the team. What is typed first may be
 * the name of a message of the library. In the night it is asked whether it goes at once. What was written stays until it has gone. */
import { refDebounced, useLocalStorage } from "@vueuse/core";
import { computed, ref, useTemplateRef, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useReplies } from "@/shared/useReplies";
import { tell } from "@/ui/told";

type Way = "text" | "email" | "note";
const props = defineProps<{ contact: Schemas["ContactRow"]; dialogue: Schemas["DialogueOut"]; me: string }>();
const emit = defineEmits<{ sent: [] }>();
const account = useAccount();
const { act, pending, after } = useReplies();
const name = computed(() => props.contact.first_name || props.contact.name);
const words = useLocalStorage(() => `answer-${account.value}-${props.contact.id}`, "");
const open = computed(() => props.dialogue.ways.filter((one) => !one.closed));
const closed = computed(() => props.dialogue.ways.filter((one) => one.closed));
const usual = (): Way => (open.value.find((one) => one.channel === props.dialogue.last_by) ?? open.value[0])?.channel ?? "note";
const way = ref<Way>(usual());
watch(
  () => props.contact.id,
  () => (way.value = usual()),
);
watch(open, () => way.value !== "note" && !open.value.some((one) => one.channel === way.value) && (way.value = usual()));
/** Asked about the night: what is said of it, and when it would go in the morning. */
const night = ref<{ asks: string; goes: string }>();
watch([words, way, () => props.contact.id], () => (night.value = undefined));
const box = useTemplateRef<HTMLElement>("box");
const focus = () => box.value?.querySelector("textarea")?.focus();
defineExpose({ focus });

const sought = refDebounced(
  computed(() => words.value.trim()),
  200,
);
const asks = computed(() => way.value !== "note" && sought.value.length >= 2 && sought.value.length <= 60 && !sought.value.includes("\n"));
const { data: wordings } = useRead(
  "/replies/{contact_id}/wordings",
  () => ({ path: { contact_id: props.contact.id }, query: { channel: way.value === "email" ? "email" : "text", find: sought.value } }),
  { enabled: asks, staleTime: 60_000 },
);
const offered = computed(() => (asks.value && words.value.trim() === sought.value ? (wordings.value ?? []) : []));
const marked = ref(-1);
watch(offered, () => (marked.value = -1));
function take(one?: { text: string }) {
  if (!one) return;
  words.value = one.text;
  focus();
}

async function handOver(how: "ask" | "now" | "morning" = "ask") {
  const text = words.value.trim();
  const by = way.value;
  if (!text) return;
  const params = { path: { account: account.value, contact_id: props.contact.id } };
  let told: Schemas["ReplyAnswerOut"] | undefined;
  const did = await act(async () => {
    if (by === "note") await ok(api.POST("/api/accounts/{account}/contacts/{contact_id}/notes", { params, body: { text } }));
    else
      told = await ok(
        api.POST("/api/accounts/{account}/replies/{contact_id}/answer", {
          params,
          body: { text, channel: by, turn: props.dialogue.turn, night: how },
        }),
      );
  });
  if (did && told?.asks) return (night.value = told as { asks: string; goes: string });
  if (did) {
    words.value = "";
    night.value = undefined;
    tell(
      by === "note"
        ? "Noted for the team."
        : told?.goes
          ? `Goes to ${props.contact.name} ${told.goes}.`
          : `Answered ${props.contact.name}.`,
    );
    emit("sent");
  }
  await after();
}
function onKey(event: KeyboardEvent) {
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) void handOver(night.value ? "morning" : "ask");
  else if (offered.value.length && event.key === "ArrowDown") marked.value = Math.min(marked.value + 1, offered.value.length - 1);
  else if (offered.value.length && event.key === "ArrowUp") marked.value = Math.max(marked.value - 1, -1);
  else if (event.key === "Enter" && marked.value >= 0) take(offered.value[marked.value]);
  else if (event.key === "Escape") box.value?.querySelector("textarea")?.blur();
  else return;
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <div ref="box" class="answer">
    <span class="ruler soft small">now</span>
    <span class="small soft who">{{ me }}</span>
    <form class="words" @submit.prevent="handOver()">
      <BFormTextarea
        v-model="words"
        :aria-label="way === 'note' ? `A note about ${name}` : `Answer ${name}`"
        :placeholder="way === 'note' ? 'A note for the team…' : `Write to ${name}, or name a message of the library…`"
        rows="2"
        max-rows="8"
        maxlength="5000"
        @keydown="onKey" />
      <ul v-if="offered.length" aria-label="Messages of the library">
        <li v-for="(one, at) in offered" :key="one.name" :class="{ marked: at === marked }">
          <BButton variant="link" @click="take(one)">{{ one.name }}</BButton> <span class="soft small">{{ one.text }}</span>
        </li>
      </ul>
      <p v-if="night" class="gorse" role="status">
        {{ night.asks }}
        <BButton variant="primary" :disabled="pending" @click="handOver('morning')">Send it at {{ night.goes }}</BButton>
        <BButton variant="link" :disabled="pending" @click="handOver('now')">Send it now all the same</BButton>
      </p>
      <div class="foot small">
        <BFormRadio v-for="one in open" :key="one.channel" v-model="way" :value="one.channel" name="way">by {{ one.channel }}</BFormRadio>
        <BFormRadio v-model="way" value="note" name="way">a note for the team</BFormRadio>
        <span v-for="one in closed" :key="one.channel" class="soft">no {{ one.channel }}: {{ one.closed }}</span>
        <span class="grow" />
        <BButton v-if="!night" variant="primary" type="submit" :disabled="pending || !words.trim()"
          >{{ way === "note" ? "Note it" : "Send" }} <kbd>Ctrl Enter</kbd></BButton
        >
      </div>
    </form>
  </div>
</template>

<style scoped>
.answer {
  display: grid;
  grid-template-columns: 76px 92px minmax(0, 1fr);
  column-gap: 14px;
  border-top: 1px solid var(--ink);
  padding: 10px 0 14px;
  background: var(--paper);
  position: sticky;
  bottom: 0;
}
.ruler {
  text-align: right;
  padding-top: 6px;
}
.who {
  padding-top: 6px;
}
.words {
  border-left: 2px solid var(--sea);
  padding-left: 14px;
}
.words :deep(textarea) {
  font: 17px/1.4 var(--serif);
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: transparent;
  padding: 2px 0;
  resize: none;
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin-top: 6px;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
li {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding: 2px 0 2px 6px;
}
li.marked {
  background: var(--mist);
  box-shadow: inset 3px 0 0 var(--sea);
}
p {
  margin: 6px 0 0;
}
@media (max-width: 760px) {
  .answer {
    display: block;
  }
  .ruler,
  .who {
    display: none;
  }
}
</style>
