<script setup lang="ts">
/** Rules for words that come in by text or email, in the order in which they are asked, with a place to try one. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { useMay, useRead, useAnswered } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { refDebounced } from "@vueuse/core";
import { usePending } from "@/ui/usePending";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import { sure } from "@/ui/sure";
import { MATCH } from "./match";
import RuleAsk from "./RuleAsk.vue";
import StrangerMail from "./StrangerMail.vue";

type Rule = Schemas["RuleOut"];
const account = useAccount();
const path = computed(() => ({ account: account.value }));
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { data: rules, ...rulesRead } = useRead("/incoming-rules", undefined, { live: true });
const namesRead = useRead("/names");
const workflowsRead = useRead("/workflows");
const matchWords = (one: Rule) => MATCH.find(([match]) => match === one.match)?.[1];

const trying = ref("");
const by = ref<"text" | "email">("text");
const typed = refDebounced(trying, 150);
const { data: tried } = useQuery({
  queryKey: ["incoming-try", account, typed, by, rules],
  queryFn: () =>
    ok(api.POST("/api/accounts/{account}/incoming-try", { params: { path: path.value }, body: { text: typed.value, channel: by.value } })),
  enabled: () => !!typed.value.trim(),
});

const { act } = usePending();
const editing = ref<Rule | "new">();
const set = useAnswered("/incoming-rules");
const move = (rule: Rule, way: "up" | "down") =>
  act(async () =>
    set(
      await ok(
        api.POST("/api/accounts/{account}/incoming-rules/{rule_id}/{way}", { params: { path: { ...path.value, rule_id: rule.id, way } } }),
      ),
    ),
  );
const { data: strangers, ...strangersRead } = useRead("/strangers", undefined, { live: true });
const drop = (rule: Rule) =>
  sure({
    title: `Drop the rule for ${rule.words?.map((one) => `“${one}”`).join(", ") || "anything"}`,
    act: "Drop it",
    words: "From now on it does nothing with what comes in. What it did stays done.",
    yes: async () =>
      set(
        await ok(api.DELETE("/api/accounts/{account}/incoming-rules/{rule_id}", { params: { path: { ...path.value, rule_id: rule.id } } })),
      ),
  });
const COLUMNS: Column[] = [
  { key: "at", label: "#", num: true },
  { key: "when_a_message", label: "When a message", class: "serif" },
  { key: "bluffside", label: "Bluffside", class: "serif" },
  { key: "so_far", label: "So far", num: true },
  { key: "last", label: "Last" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Incoming words" about="asked in this order; the first that fits acts, and no other"
      ><BButton v-if="may" variant="primary" @click="editing = 'new'">New rule</BButton></PageHead
    >
    <ReadState :of="[rulesRead, namesRead, workflowsRead, strangersRead]" what="Incoming words">
      <p class="row try">
        <label class="grow"
          ><span>Try {{ by === "text" ? "a text" : "an email" }}</span
          ><BFormInput v-model="trying" placeholder="HELLO" /></label
        ><FormRow label="As what it comes" hides-label
          ><BFormSelect v-model="by"
            ><option value="text">by text</option>
            <option value="email">by email</option></BFormSelect
          ></FormRow
        ><span role="status" class="serif told"
          >{{ trying.trim() ? tried?.words : ""
          }}<span v-if="!trying.trim()" class="soft">Type what somebody might write, and see what it would do.</span></span
        >
      </p>
      <DataTable
        v-if="rules?.length"
        caption="Rules"
        :rows="rules"
        :columns="COLUMNS"
        :row-class="(one) => trying.trim() && tried?.rule === one.id && 'fits'">
        <template #at="{ index: at }">{{ at + 1 }}</template>
        <template #when_a_message="{ item: one }"
          ><span class="soft">by {{ one.channels?.join(" or ") }}</span> {{ matchWords(one) }}
          <template v-for="(word, n) in one.words" :key="word">{{ n ? " or " : "" }}“{{ word }}”</template>
          <div v-if="one.hidden" class="gorse small"><StateMark is="look" /> {{ one.hidden }}</div></template
        >
        <template #bluffside="{ item: one }">{{ one.does }}<span v-if="!one.on" class="soft"> · off</span></template>
        <template #so_far="{ item: one }">{{ one.fitted }}</template>
        <template #last="{ item: one }">{{ one.last || "never" }}</template>
        <template #acts="{ item: one, index: at }"
          ><template v-if="may"
            ><BButton variant="link" class="icon" :disabled="!at" :aria-label="`Rule ${at + 1} up`" @click="move(one, 'up')">↑</BButton
            ><BButton
              variant="link"
              class="icon"
              :disabled="at === rules.length - 1"
              :aria-label="`Rule ${at + 1} down`"
              @click="move(one, 'down')"
              >↓</BButton
            ><BButton variant="link" @click="editing = one">Change</BButton
            ><BButton variant="link" @click="drop(one)">Drop</BButton></template
          ></template
        >
      </DataTable>
      <EmptyState v-else-if="rules"
        >No rule yet. One could be: a text that is exactly “HELLO” tags “poster”, answers at once, and enrols in the welcome.</EmptyState
      >
      <p class="soft small more">
        Words that opt out (stop, quit, end, unsubscribe …) act before any rule; “help” and “info” are answered with who writes, how to
        stop, and a link to what one hears. Who texts from a number nobody here has becomes a contact; so does who writes an email that a
        rule fits.
      </p>
      <StrangerMail v-if="may || strangers?.length" :strangers="strangers ?? []" />
    </ReadState>
    <RuleAsk v-if="editing" :rule="editing" @close="editing = undefined" />
  </div>
</template>

<style scoped>
.try {
  margin-top: 10px;
  border-top: 1px solid var(--ink);
  padding: 12px 0;
  align-items: end;
}
.try input {
  width: 100%;
}
.try .grow {
  flex: 0 1 22rem;
}
.told {
  font-size: 16px;
  padding-bottom: 5px;
}
.more {
  margin-top: 12px;
}
.try select {
  height: 33px;
  padding-block: 0;
}
:deep(.fits) {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
</style>
