<script setup lang="ts">
/** What DNS should say of the domains that emails come from, to be copied; and whether their mails are signed here. */
import { useClipboard } from "@vueuse/core";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import SetLine from "@/shared/settings/SetLine.vue";
import WordPart from "@/shared/settings/WordPart.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

defineProps<{ domains: Schemas["DomainOut"][]; may: boolean }>();
const account = useAccount();
const answered = useAnswered("/set-up/senders");
const touched = useTouched();
const { act } = usePending();
const { copy } = useClipboard({ legacy: true });
const WAYS = [
  { value: "here", words: "are signed here" },
  { value: "server", words: "are signed by the mail server" },
];
async function sign(domain: string, where: string) {
  const path = { account: account.value, domain };
  const body = { signs: where === "here" };
  const call = api.PUT("/api/accounts/{account}/set-up/domains/{domain}", { params: { path }, body });
  if (await act(async () => answered(await ok(call)))) tell("Kept.");
  void touched("/set-up/changes");
}
async function take(text: string, what: string) {
  await copy(text);
  tell(`${what} is copied.`);
}
</script>

<template>
  <SetHead title="What DNS should say" />
  <p class="soft small">
    Whoever looks after the domain enters these as TXT records. Receivers look there whether a mail is yours; without them many are taken
    for unwanted.
  </p>
  <template v-for="one in domains" :key="one.domain">
    <SetLine>
      Emails of {{ one.domain }}
      <WordPart
        :value="one.signs ? 'here' : 'server'"
        :label="`Emails of ${one.domain}`"
        :choices="WAYS"
        :disabled="!may"
        @keep="sign(one.domain, $event)" />.
      <template #depends>{{
        one.signs ? "Each domain has a key of its own; it is kept sealed." : "The server that mail goes out by has a key of its own."
      }}</template>
    </SetLine>
    <dl v-for="record in one.records" :key="record.name">
      <dt>
        <code>{{ record.name }}</code> <small class="soft">{{ record.why }}</small>
      </dt>
      <dd>
        <code>{{ record.text }}</code>
        <BButton variant="link" class="small" :aria-label="`Copy what ${record.name} says`" @click="take(record.text, record.name)"
          >Copy</BButton
        >
      </dd>
    </dl>
  </template>
</template>

<style scoped>
dl {
  margin: 0;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
  max-width: 60rem;
}
dd {
  margin: 2px 0 0;
  display: flex;
  gap: 12px;
  align-items: baseline;
}
code {
  overflow-wrap: anywhere;
  color: var(--ink);
  font-size: 13px;
}
</style>
