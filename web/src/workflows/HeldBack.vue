<script setup lang="ts">
/** What fell due while sending was stopped: a row a line or a message, each decided upon for all it is about. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const { data: details } = useAccountDetails();
const cache = useQueryClient();
const { pending, act } = usePending();
const { data, ...reading } = useQuery({
  queryKey: ["held-back", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/sending/held-back", { params: { path: { account: account.value } } })),
  meta: LIVE,
});
const called = (one: Schemas["HeldBackOut"]) => (one.name ? `“${one.name}”` : "Written by hand");
/** Some hundred at a time, until it is decided for all; what is done stays done when it is left halfway. */
async function decide(one: Schemas["HeldBackOut"], goes: boolean) {
  let done = 0;
  const all = await act(async () => {
    for (;;) {
      const { count } = await ok(api.POST("/api/accounts/{account}/sending/decide", {
        params: { path: { account: account.value } },
        body: { where: one.where, name: one.name, version: one.version, place: one.place, channel: one.channel, goes },
      }));
      if (!count) break;
      done += count;
      tell(`${called(one)}: decided for ${done} of ${one.how_many}.`);
    }
  });
  if (all && done) tell( `${called(one)} ${goes ? "goes to" : "does not go to"} ${many(done, "person", "people")}${goes ? ", within the hours" : ""}.`);
  cache.invalidateQueries({ queryKey: ["held-back"] });
  cache.invalidateQueries({ queryKey: ["aside"] });
}
</script>

<template>
  <ReadState :of="reading" what="What fell due while sending was stopped">
  <section v-if="data?.length" aria-label="Fell due while sending was stopped">
    <h2>■ Fell due while sending was stopped</h2>
    <p class="soft">{{ details?.stopped ? "It can be decided once the stop is lifted." : "Nothing of this goes before you have decided. What is let go keeps the hours, consent and limits; what is not takes along what follows up on it, up to the next wait." }}</p>
    <table v-if="data?.length">
      <thead><tr><th>Message</th><th>Where it stands</th><th class="num">For</th><th>Since</th><th><span class="sr">What to do</span></th></tr></thead>
      <tbody>
        <tr v-for="one in data" :key="`${one.where}${one.version}${one.place}${one.name}${one.channel}`">
          <td class="serif">{{ called(one) }}</td>
          <td>{{ one.workflow ? `at its line of “${one.workflow}”` : `in the outbox, by ${one.channel}` }}</td>
          <td class="num">{{ one.how_many }}</td>
          <td class="soft">{{ one.since }}</td>
          <td class="acts">
            <template v-if="details?.rights.includes('workflows') && !details.stopped">
              <button class="plain" :disabled="pending" :aria-label="`Let ${called(one)} go`" @click="decide(one, true)">Let it go</button>
              <button class="link" :disabled="pending" :aria-label="`Do not send ${called(one)}`" @click="decide(one, false)">Do not send it</button>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
  </ReadState>
</template>

<style scoped>
section { margin-top: 22px; }
.acts { white-space: nowrap; text-align: right; }
.acts .link { margin-left: 12px; }
</style>
