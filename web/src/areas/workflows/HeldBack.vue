<script setup lang="ts">
/** What fell due while sending was stopped: a row a line or a message, each decided upon for all it is about. */

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";

const account = useAccount();
const { data: details } = useAccountDetails();
const mayDo = useMay();
const touched = useTouched();
const { pending, act } = usePending();
const { data, ...reading } = useRead("/sending/held-back", undefined, { live: true });
const called = (one: Schemas["HeldBackOut"]) => (one.name ? `“${one.name}”` : "Written by hand");
/** Some hundred at a time, until it is decided for all; what is done stays done when it is left halfway. */
async function decide(one: Schemas["HeldBackOut"], goes: boolean) {
  let done = 0;
  const all = await act(async () => {
    for (;;) {
      const { count } = await ok(
        api.POST("/api/accounts/{account}/sending/decide", {
          params: { path: { account: account.value } },
          body: { where: one.where, name: one.name, version: one.version, place: one.place, channel: one.channel, goes },
        }),
      );
      if (!count) break;
      done += count;
      tell(`${called(one)}: decided for ${done} of ${one.how_many}.`);
    }
  });
  if (all && done)
    tell(`${called(one)} ${goes ? "goes to" : "does not go to"} ${many(done, "person", "people")}${goes ? ", within the hours" : ""}.`);
  void touched("/sending/held-back", "/aside");
}
const COLUMNS: Column[] = [
  { key: "message", label: "Message", heads: true, class: "serif" },
  { key: "where_it_stands", label: "Where it stands" },
  { key: "for", label: "For", num: true },
  { key: "since", label: "Since", class: "soft" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "acts" },
];
</script>

<template>
  <ReadState :of="reading" what="What fell due while sending was stopped">
    <section v-if="data?.length" aria-label="Fell due while sending was stopped">
      <h2>■ Fell due while sending was stopped</h2>
      <p class="soft">
        {{
          details?.stopped
            ? "It can be decided once the stop is lifted."
            : "Nothing of this goes before you have decided. What is let go keeps the hours, consent and limits; what is not takes along what follows up on it, up to the next wait."
        }}
      </p>
      <DataTable v-if="data?.length" caption="What is held back" :rows="data" :columns="COLUMNS">
        <template #message="{ item: one }">{{ called(one) }}</template>
        <template #where_it_stands="{ item: one }">{{
          one.workflow ? `at its line of “${one.workflow}”` : `in the outbox, by ${one.channel}`
        }}</template>
        <template #for="{ item: one }">{{ one.how_many }}</template>
        <template #since="{ item: one }">{{ one.since }}</template>
        <template #acts="{ item: one }"
          ><template v-if="details && mayDo('workflows') && !details.stopped">
            <BButton variant="outline-primary" :disabled="pending" :aria-label="`Let ${called(one)} go`" @click="decide(one, true)"
              >Let it go</BButton
            >
            <BButton variant="link" :disabled="pending" :aria-label="`Do not send ${called(one)}`" @click="decide(one, false)"
              >Do not send it</BButton
            >
          </template></template
        >
      </DataTable>
    </section>
  </ReadState>
</template>

<style scoped>
section {
  margin-top: 22px;
}
</style>
