<script setup lang="ts">
/** A conversation with the assistant, as a contact would have it: nothing of it is kept, booked or sent. */
import { computed, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";

const props = defineProps<{ script: Schemas["AssistantScript"] }>();
const account = useAccount();
const { pending, act } = usePending();
const said = ref<string[]>([]);
const lines = ref<Schemas["TriedWordsOut"][]>([]);
const words = ref("");
const over = computed(() => !!lines.value.at(-1)?.person);
const MOST = 20;
async function play(texts: string[]) {
  const body = { said: texts, script: props.script };
  const did = await act(async () => {
    lines.value = await ok(
      api.POST("/api/accounts/{account}/set-up/assistant/try", { params: { path: { account: account.value } }, body }),
    );
  });
  if (did) said.value = texts;
  return did;
}
async function say() {
  const text = words.value.trim();
  if (text && (await play([...said.value, text]))) words.value = "";
}
// What it says now is said by the script as it stands.
watch(
  () => props.script,
  () => said.value.length && play(said.value),
);
</script>

<template>
  <div class="try">
    <p class="soft">
      Write what a contact would answer to the message that asks them. The times are those of an empty diary; nothing is booked or sent.
    </p>
    <div role="log" aria-label="The conversation" tabindex="0">
      <template v-for="(one, at) in lines" :key="at">
        <p class="serif theirs">{{ one.said }}</p>
        <p class="small soft">Understood: {{ one.understood }}</p>
        <p v-if="one.says" class="serif ours">{{ one.says }}</p>
        <p v-if="one.books" class="small kelp">In the diary: {{ one.books }}</p>
        <p v-if="one.person" class="small thrift">Somebody goes on, since {{ one.person }}.</p>
      </template>
    </div>
    <form class="row" @submit.prevent="say">
      <BFormInput v-model="words" class="grow" aria-label="What a contact writes" placeholder="Yes, but only on weekends" maxlength="300" />
      <BButton type="submit" variant="outline-primary" :disabled="pending || !words.trim() || over || said.length >= MOST">Say it</BButton>
      <BButton v-if="said.length" variant="link" @click="((said = []), (lines = []))">From the beginning</BButton>
    </form>
  </div>
</template>

<style scoped>
.try {
  max-width: 46em;
}
p {
  margin: 0;
}
.theirs,
.ours {
  border-left: 2px solid var(--thrift);
  padding: 2px 0 2px 12px;
  margin-top: 8px;
  font-size: 17px;
}
.ours {
  border-left-color: var(--sea);
}
.small {
  padding-left: 14px;
}
.row {
  margin-top: 12px;
  gap: 12px;
}
</style>
