<script setup lang="ts">
/** Whom messages come from: addresses and numbers, each in a sentence, what each has done lately, and what DNS should say of the
 * domains. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import SetHead from "@/shared/settings/SetHead.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { useAsking } from "@/ui/useAsking";
import { usePending } from "@/ui/usePending";
import AddSenderAsk from "./parts/AddSenderAsk.vue";
import DomainLines from "./parts/DomainLines.vue";
import SenderLine from "./parts/SenderLine.vue";
import { useCare } from "./useCare";

type Sender = Schemas["SenderOut"];
type All = Schemas["SendersOut"];
const account = useAccount();
const mayDo = useMay();
const may = computed(() => mayDo("set-up"));
const touched = useTouched();
const { data: all, ...read } = useRead("/set-up/senders");
const answered = useAnswered("/set-up/senders");
const { faults, act } = usePending({ fields: ["name", "shown_as", "reply_to", "usual_for", "code"] });
const { care, keep } = useCare();
const asking = useAsking("add");
/** Whose fault is shown: that of the one changed last. */
const at = ref(0);
const emails = computed(() => all.value?.senders.filter((one) => one.channel === "email") ?? []);
const numbers = computed(() => all.value?.senders.filter((one) => one.channel === "text") ?? []);

async function change(one: Sender, call: () => Promise<All>, words: string) {
  at.value = one.id;
  if (await act(async () => answered(await call()))) tell(words);
  void touched("/set-up/changes", "/set-up/live", "/catalogue");
}
const path = (one: Sender) => ({ account: account.value, sender_id: one.id });
const set = (one: Sender, body: Schemas["SenderChange"]) =>
  change(one, () => ok(api.PATCH("/api/accounts/{account}/set-up/senders/{sender_id}", { params: { path: path(one) }, body })), "Kept.");
const again = (one: Sender) =>
  change(
    one,
    () => ok(api.POST("/api/accounts/{account}/set-up/senders/{sender_id}/code", { params: { path: path(one) } })),
    `Another code is on its way to ${one.written}.`,
  );
const confirm = (one: Sender, code: string) =>
  change(
    one,
    () => ok(api.POST("/api/accounts/{account}/set-up/senders/{sender_id}/confirm", { params: { path: path(one) }, body: { code } })),
    `${one.written} is confirmed: messages can come from it.`,
  );
/** Messages that name no sender come from a usual one: theirs is the speed that stands under no name. */
const paceKey = (one: Sender) => (one.usual_for.length ? "" : one.name);
function pace(one: Sender, each: number | null) {
  const { [paceKey(one)]: now, ...others } = care.value?.pace ?? {};
  keep({ pace: each ? { ...others, [paceKey(one)]: { burst: 1, ...now, each_minute: each } } : others });
}
function remove(one: Sender) {
  sure({
    title: `Take ${one.written} away?`,
    words: "No message comes from it any more. What came from it stays with whom it was written to.",
    act: "Take it away",
    yes: async () => {
      const done = await act(async () =>
        answered(await ok(api.DELETE("/api/accounts/{account}/set-up/senders/{sender_id}", { params: { path: path(one) } }))),
      );
      if (done) tell(`${one.written} is taken away.`);
      void touched("/set-up/changes");
      return done;
    },
  });
}
const paceOf = (one: Sender) => care.value?.pace?.[paceKey(one)]?.each_minute ?? null;
const faultOf = (one: Sender) => (at.value === one.id ? Object.values(faults.value).join(" ") : "");
</script>

<template>
  <div class="page">
    <PageHead title="Senders" about="whom messages come from"
      ><BButton v-if="may" variant="primary" @click="asking = 'add'">Another sender</BButton></PageHead
    >
    <ReadState :of="read" what="Senders">
      <template v-if="all">
        <SetHead title="Addresses of emails" first />
        <SenderLine
          v-for="one in emails"
          :key="one.id"
          :sender="one"
          :each-minute="paceOf(one)"
          :fault="faultOf(one)"
          :may="may"
          @change="set(one, $event)"
          @pace="pace(one, $event)"
          @confirm="confirm(one, $event)"
          @again="again(one)"
          @remove="remove(one)" />
        <EmptyState v-if="!emails.length">No address yet: emails wait until there is one, and it is confirmed.</EmptyState>
        <SetHead title="Numbers of texts and voicemails" />
        <SenderLine
          v-for="one in numbers"
          :key="one.id"
          :sender="one"
          :each-minute="paceOf(one)"
          :fault="faultOf(one)"
          :may="may"
          @change="set(one, $event)"
          @pace="pace(one, $event)"
          @remove="remove(one)" />
        <EmptyState v-if="!numbers.length">No number yet: texts wait until there is one.</EmptyState>
        <DomainLines v-if="all.domains.length" :domains="all.domains" :may="may" />
      </template>
    </ReadState>
    <AddSenderAsk v-if="asking === 'add'" :first="!emails.length" @close="asking = ''" />
  </div>
</template>
