<script setup lang="ts">
/** What the account is connected to: whether each works, what it said last, who uses it; trying one, switching it, its key. What needs
 * somebody stands first, with the act that mends it. */
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import WordPart from "@/shared/settings/WordPart.vue";
import StopAll from "@/shared/StopAll.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, number } from "@/ui/words";
import KeyAsk from "./parts/KeyAsk.vue";
import OfWorkflows from "./parts/OfWorkflows.vue";
import SigningKey from "./parts/SigningKey.vue";

type Connection = Schemas["ConnectionOut"];
const account = useAccount();
const may = useMay();
const touched = useTouched();
const { data, ...reading } = useRead("/set-up/connections", undefined, { live: true });
const answered = useAnswered("/set-up/connections");
const { pending, act } = usePending();
const keyOf = ref<Connection>();
const path = computed(() => ({ account: account.value }));
const STATES = {
  broken: ["broken", "does not work", "rust"],
  silent: ["waits", "silent", "gorse"],
  works: ["done", "works", "kelp"],
  unused: ["", "not used yet", "soft"],
  "not connected": ["look", "not connected", "gorse"],
  off: ["", "off", "soft"],
} as const;
/** How the page begins: how many there are, and how they stand, those that need somebody first. */
const sum = computed(() => {
  const all = data.value?.connections ?? [];
  const count = (state: Connection["state"]) => all.filter((one) => one.state === state).length;
  const said = (
    [
      ["broken", ["does not work", "do not work"]],
      ["silent", ["has gone silent", "have gone silent"]],
      ["works", ["works", "work"]],
      ["unused", ["has not been used yet", "have not been used yet"]],
      ["not connected", ["is not connected", "are not connected"]],
      ["off", ["is off", "are off"]],
    ] as const
  )
    .map(([state, [one, more]]) => [count(state), one, more] as const)
    .filter(([n]) => n)
    .map(([n, one, more]) => `${number(n)} ${n === 1 ? one : more}`);
  const waiting = all.reduce((n, one) => n + one.waiting, 0);
  return `Of ${many(all.length, "connection")} ${said.join(", ")}.${waiting ? ` ${number(waiting)} ${waiting === 1 ? "waits" : "wait"}.` : ""}`;
});
const which = (one: Connection) => ({ kind: one.kind, name: one.name });
async function test(one: Connection) {
  await act(async () => {
    const { said, ...now } = await ok(
      api.POST("/api/accounts/{account}/set-up/connections/test", { params: { path: path.value }, body: which(one) }),
    );
    answered(now);
    tell(said);
  });
}
const setSwitch = (one: Connection, on: boolean) =>
  act(async () => {
    const call = api.POST("/api/accounts/{account}/set-up/connections/switch", {
      params: { path: path.value },
      body: { ...which(one), on },
    });
    answered(await ok(call));
    tell(`${one.title}: switched ${on ? "on" : "off"}.`, on ? undefined : () => setSwitch(one, true));
    void touched("/set-up/changes", "/set-up/chapters");
  });
function switchOn(one: Connection) {
  if (!one.waiting || one.kind === "channel") return void setSwitch(one, true);
  const waits = one.kind === "source" ? many(one.waiting, "lead waits", "leads wait") : many(one.waiting, "request waits", "requests wait");
  sure({
    title: `Switch on: ${one.title}?`,
    words: `${waits}, and ${one.waiting === 1 ? "goes" : "go"} on at once.`,
    act: "Switch it on",
    yes: () => setSwitch(one, true),
  });
}
async function expect(one: Connection, days: string) {
  const body = { ...which(one), days: Number(days) || null };
  const call = api.POST("/api/accounts/{account}/set-up/connections/expected", { params: { path: path.value }, body });
  if (await act(async () => answered(await ok(call)))) tell("Kept.");
  void touched("/set-up/changes");
}
async function again(one: Connection) {
  const call = api.POST("/api/accounts/{account}/set-up/connections/again", { params: { path: path.value }, body: which(one) });
  if (await act(async () => answered(await ok(call)))) tell("They are made once more.");
}
const COLUMNS: Column[] = [
  { key: "state", label: "Does it work?", class: "state" },
  { key: "title", label: "Connection", heads: true, class: "serif" },
  { key: "said", label: "It last said", class: "said" },
  { key: "used", label: "Used by", class: "small" },
  { key: "done", label: "In 30 days", num: true },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Connections"><StopAll /></PageHead>
    <ReadState :of="reading" what="The connections">
      <template v-if="data">
        <p class="serif sum">{{ sum }}</p>
        <DataTable caption="Connections" :rows="data.connections" :columns="COLUMNS" :row-class="(one) => one.state === 'broken' && 'mend'">
          <template #state="{ item: one }">
            <strong :class="STATES[one.state][2]"
              ><StateMark :is="STATES[one.state][0] as 'done'" v-if="STATES[one.state][0]" /> {{ STATES[one.state][1] }}</strong
            >
            <small v-if="one.since" class="soft block"
              >since {{ one.since }}<template v-if="one.off_by">, by {{ one.off_by }}</template></small
            >
          </template>
          <template #title="{ item: one }"
            ><RouterLink v-if="one.source_id" :to="{ name: 'lead-source', params: { source: one.source_id } }">{{ one.title }}</RouterLink
            ><template v-else>{{ one.title }}</template>
            <small class="block"
              >{{ one.about
              }}<template v-if="one.key_at"
                >, with
                <component :is="may('set-up') ? 'button' : 'span'" class="as-part" @click="may('set-up') && (keyOf = one)"
                  >a key put in {{ one.key_at }}</component
                ></template
              ><template v-if="one.can_expect"
                >, expected
                <WordPart
                  :value="one.expected_days ? String(one.expected_days) : ''"
                  :label="`${one.title}: something comes at least every so many days`"
                  type="number"
                  :least="1"
                  :most="366"
                  empty="no matter how often"
                  :disabled="!may('set-up')"
                  @keep="expect(one, $event)" /><template v-if="one.expected_days">{{
                  one.expected_days === 1 ? " day apart at most" : " days apart at most"
                }}</template></template
              ></small
            >
            <span v-if="one.state === 'broken'" class="block mending">
              <template v-if="one.waiting"
                >{{ many(one.waiting, "waits", "wait") }} and {{ one.waiting === 1 ? "goes" : "go" }} on when it answers; nobody is passed
                over.
              </template>
              <template v-if="one.used_by.length">What uses it cannot be published until it works.</template>
              <BButton v-if="one.needs_key && may('set-up')" variant="primary" class="put" @click="keyOf = one"
                >Put in the new key…</BButton
              >
            </span>
          </template>
          <template #said="{ item: one }">
            <i v-if="one.testing" class="serif soft">being tried…</i>
            <template v-else-if="one.said"
              ><i class="serif">{{ one.said }}</i
              ><small class="soft block">{{ one.said_at }}</small></template
            >
          </template>
          <template #used="{ item: one }"
            ><OfWorkflows v-if="one.used_by.length" :of="one.used_by" /><span v-else class="soft">nothing</span></template
          >
          <template #done="{ item: one }"
            >{{ one.done ? number(one.done) : "" }}<small v-if="one.failed" class="rust block">{{ number(one.failed) }} failed</small
            ><small v-if="one.waiting" class="gorse block">{{ many(one.waiting, "waits", "wait") }}</small></template
          >
          <template #acts="{ item: one }"
            ><template v-if="may('set-up')"
              ><BButton v-if="one.test" variant="link" :disabled="pending || one.testing" @click="test(one)">Try it</BButton
              ><BButton v-if="one.takes_key && !one.key_at" variant="link" @click="keyOf = one">Key…</BButton
              ><BButton v-if="one.takes_key && one.failed" variant="link" :disabled="pending" @click="again(one)">Failed ones again</BButton
              ><template v-if="one.can_switch"
                ><BButton v-if="one.state === 'off'" variant="link" :disabled="pending" @click="switchOn(one)">Switch on</BButton
                ><BButton v-else-if="one.state !== 'not connected'" variant="link" :disabled="pending" @click="setSwitch(one, false)"
                  >Switch off</BButton
                ></template
              ></template
            ></template
          >
        </DataTable>
        <SigningKey :may="may('set-up')" />
      </template>
    </ReadState>
    <KeyAsk v-if="keyOf" :of="keyOf" @close="keyOf = undefined" />
  </div>
</template>

<style scoped>
.sum {
  font-size: 17px;
  margin: 3px 0 10px;
}
.block {
  display: block;
}
small.block,
.as-part {
  font-family: var(--sans);
  font-size: 13.5px;
}
.as-part {
  border: 0;
  font-weight: 400;
  padding: 0;
  background: none;
  color: inherit;
  text-decoration: underline;
  text-decoration-color: var(--sea);
  text-underline-offset: 3px;
}
.mending {
  font-size: 16px;
  margin: 6px 0;
}
.put {
  display: block;
  margin-top: 8px;
}
:deep(tr.mend > *) {
  background: var(--mist);
}
:deep(tr.mend > :first-child) {
  box-shadow: inset 3px 0 0 var(--thrift);
  padding-left: 12px;
}
:deep(td.of-said) {
  overflow-wrap: anywhere;
}
@media (min-width: 801px) {
  :deep(td.of-said) {
    min-width: 10rem;
    max-width: 15rem;
  }
}
</style>
