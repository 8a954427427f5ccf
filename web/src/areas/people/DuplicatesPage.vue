<script setup lang="ts">
/** Pairs who may be one person, side by side: made one with the history of both, or said to be two. */
import { reactive } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";

type Pair = Schemas["PairOut"];
const account = useAccount();
const touched = useTouched();
const mayDo = useMay();
const { data, ...reading } = useRead("/duplicates");
/** Which value is kept where both have one, by pair and field: 0 of the first, 1 of the second. */
const takes = reactive(new Map<string, number>());
const key = (pair: Pair, name: string) => `${pair.first.id}-${pair.second.id}-${name}`;
const differ = (row: Schemas["Compared"]) => !!row.values[0] && !!row.values[1] && row.values[0] !== row.values[1];
const label = (name: string) => name.replace("field:", "").replaceAll("_", " ");
const { pending, act } = usePending();
async function merge(pair: Pair) {
  const take = pair.compared.filter((row) => differ(row) && takes.get(key(pair, row.name)) === 1).map((row) => row.name);
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/duplicates/merge", {
        params: { path: { account: account.value } },
        body: { stays: pair.first.id, goes: pair.second.id, take },
      }),
    ),
  );
  if (done) tell(`${pair.first.name} is one person now.`);
  void touched("everything");
}
async function two(pair: Pair) {
  const done = await act(() =>
    ok(
      api.POST("/api/accounts/{account}/duplicates/two", {
        params: { path: { account: account.value } },
        body: { first: pair.first.id, second: pair.second.id },
      }),
    ),
  );
  if (done) tell("They stay two people, and are not shown here again.");
  void touched("everything");
}
</script>

<template>
  <div class="page">
    <PageHead title="Duplicates" :about="data?.count ? `${many(data.count, 'pair')} who may be one person` : ''" />
    <ReadState :of="reading" what="The duplicates">
      <p v-if="data?.count" class="lead">
        What is merged cannot be parted again. Addresses, tags, messages and all that happened are kept; where either said no to a channel,
        no holds.
      </p>
      <article v-for="pair in data?.pairs" :key="`${pair.first.id}-${pair.second.id}`">
        <h2 class="row">
          <span>{{ pair.first.name }}</span><small class="gorse"><StateMark is="waits" /> {{ pair.why }}</small>
        </h2>
        <table>
          <thead>
            <tr>
              <th />
              <th v-for="one in [pair.first, pair.second]" :key="one.id">
                <RouterLink :to="{ name: 'contact', params: { contact: one.id } }">here since {{ one.added }}</RouterLink>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in pair.compared" :key="row.name">
              <td class="soft">{{ label(row.name) }}</td>
              <td v-for="(value, n) in row.values" :key="n">
                <label v-if="differ(row)" class="pick"
                  ><input
                    type="radio"
                    :name="key(pair, row.name)"
                    :checked="(takes.get(key(pair, row.name)) ?? 0) === n"
                    @change="takes.set(key(pair, row.name), n)" />
                  {{ value }}</label
                >
                <template v-else>{{ value }}</template>
              </td>
            </tr>
            <tr>
              <td class="soft">tags</td>
              <td v-for="one in [pair.first, pair.second]" :key="one.id">
                <span v-for="tag in one.tags" :key="tag" class="tag">{{ tag }}</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="mayDo('import')" class="actions">
          <BButton variant="primary" :disabled="pending" @click="merge(pair)">Make them one</BButton
          ><BButton variant="outline-primary" :disabled="pending" @click="two(pair)">They are two people</BButton>
        </p>
      </article>
      <EmptyState v-if="data && !data.pairs.length"
        >Nobody looks like two. Looked for: the same name, emails that reach one mailbox, numbers that end alike, one address with one last
        name.</EmptyState
      >
    </ReadState>
  </div>
</template>

<style scoped>
article {
  border-top: 1px solid var(--ink);
  padding: 12px 0 20px;
  max-width: 60rem;
}
@media (max-width: 760px) {
  td,
  td:first-child {
    width: auto;
    overflow-wrap: anywhere;
  }
}
.pick {
  display: flex;
  gap: 7px;
  align-items: baseline;
}
td {
  width: 40%;
}
td:first-child {
  width: 20%;
}
h2 small {
  font: 14px var(--sans);
}
</style>
