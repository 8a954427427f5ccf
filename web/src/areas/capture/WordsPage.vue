<script setup lang="ts">
/** Rules for words that come in by text or email, in the order in which they are asked, with a place to try one. */
import { useQuery } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import { useMay, useRead, useTouched, useAnswered } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import { refDebounced } from "@vueuse/core";
import { usePending } from "@/ui/usePending";
import { cut } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";
import { sure } from "@/ui/sure";

type Rule = Schemas["RuleOut"];
const MATCH: [Schemas["RuleIn"]["match"], string][] = [
  ["is", "is exactly"],
  ["begins", "begins with"],
  ["contains", "contains"],
];
const account = useAccount();
const touched = useTouched();
const path = computed(() => ({ account: account.value }));
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const { data: rules, ...rulesRead } = useRead("/incoming-rules", undefined, { live: true });
const { data: names, ...namesRead } = useRead("/names");
const { data: workflows, ...workflowsRead } = useRead("/workflows");
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

const { pending, act } = usePending();
const editing = ref<Rule | "new">();
const form = reactive({
  on: true,
  text: true,
  email: false,
  match: "is" as NonNullable<Schemas["RuleIn"]["match"]>,
  words: "",
  tags: "",
  tags_off: "",
  lists: "",
  lists_off: "",
  assign: "",
  workflow: 0,
  answer: "",
  after: 0,
});
function edit(rule: Rule | "new") {
  editing.value = rule;
  const own = rule === "new" ? undefined : rule;
  const acts = own?.acts;
  Object.assign(form, {
    on: own?.on ?? true,
    text: own?.channels?.includes("text") ?? true,
    email: own?.channels?.includes("email") ?? false,
    match: own?.match ?? "is",
    words: own?.words.join(", ") ?? "",
    tags: acts?.tags?.join(", ") ?? "",
    tags_off: acts?.tags_off?.join(", ") ?? "",
    lists: acts?.lists?.join(", ") ?? "",
    lists_off: acts?.lists_off?.join(", ") ?? "",
    assign: acts?.assign ?? "",
    workflow: acts?.workflow ?? 0,
    answer: acts?.answer ?? "",
    after: acts?.after ?? 0,
  });
}
const set = useAnswered("/incoming-rules");
async function keep() {
  const own = editing.value;
  const channels = [...(form.text ? (["text"] as const) : []), ...(form.email ? (["email"] as const) : [])];
  const body: Schemas["RuleIn"] = {
    on: form.on,
    channels,
    match: form.match,
    words: cut(form.words),
    acts: {
      tags: cut(form.tags),
      tags_off: cut(form.tags_off),
      lists: cut(form.lists),
      lists_off: cut(form.lists_off),
      assign: form.assign,
      workflow: form.workflow,
      answer: form.answer,
      after: form.after,
    },
  };
  const done = await act(async () =>
    set(
      own === "new"
        ? await ok(api.POST("/api/accounts/{account}/incoming-rules", { params: { path: path.value }, body }))
        : await ok(
            api.PUT("/api/accounts/{account}/incoming-rules/{rule_id}", {
              params: { path: { ...path.value, rule_id: own?.id ?? 0 } },
              body,
            }),
          ),
    ),
  );
  if (done) editing.value = undefined;
}
const move = (rule: Rule, way: "up" | "down") =>
  act(async () =>
    set(
      await ok(
        api.POST("/api/accounts/{account}/incoming-rules/{rule_id}/{way}", { params: { path: { ...path.value, rule_id: rule.id, way } } }),
      ),
    ),
  );
/** Emails from people nobody here knows; no rule fitted them. */
const { data: strangers, ...strangersRead } = useRead("/strangers", undefined, { live: true });
const came = ref<Schemas["ContactRow"]>();
async function takeIn(id: number) {
  const params = { path: { ...path.value, stranger_id: id } };
  came.value = undefined;
  await act(async () => {
    came.value = await ok(api.POST("/api/accounts/{account}/strangers/{stranger_id}/take-in", { params }));
  });
  void touched("/strangers");
}
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
const throwAway = (one: { id: number; name: string; address: string }) =>
  sure({
    title: `Throw the email from ${one.name || one.address} away`,
    act: "Throw it away",
    words: "It cannot be brought back.",
    yes: async () => {
      await ok(api.DELETE("/api/accounts/{account}/strangers/{stranger_id}", { params: { path: { ...path.value, stranger_id: one.id } } }));
      void touched("/strangers");
    },
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
      ><BButton v-if="may" variant="primary" @click="edit('new')">New rule</BButton></PageHead
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
            ><BButton variant="link" @click="edit(one)">Change</BButton><BButton variant="link" @click="drop(one)">Drop</BButton></template
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
      <section v-if="may || strangers?.length" aria-label="Emails from people nobody here knows">
        <h2>Emails from people nobody here knows</h2>
        <p v-if="came" class="kelp" role="status">
          <StateMark is="done" />
          <RouterLink :to="{ name: 'contact', params: { contact: came.id } }">{{ came.name || came.email }}</RouterLink> is a contact now;
          what they wrote waits under Today.
        </p>
        <ul v-if="strangers?.length" class="plain">
          <li v-for="one in strangers" :key="one.id">
            <div class="row">
              <strong class="serif">{{ one.name || one.address }}</strong><span v-if="one.name" class="soft">{{ one.address }}</span
              ><span class="soft">{{ one.at }}</span
              ><span class="grow" />
              <template v-if="mayDo('people')">
                <BButton variant="link" :disabled="pending" @click="takeIn(one.id)">Make them a contact</BButton>
                <BButton variant="link" :disabled="pending" @click="throwAway(one)">Throw it away</BButton>
              </template>
            </div>
            <p class="serif begins">
              <strong v-if="one.subject">{{ one.subject }}. </strong>{{ one.text }}
            </p>
          </li>
        </ul>
        <p v-else class="soft">
          None wait. An email that no rule fits, from an address nobody here has, is kept here until somebody decides.
        </p>
      </section>
    </ReadState>
    <Ask v-if="editing" v-slot="{ close }" :title="editing === 'new' ? 'A new rule' : 'Change the rule'" wide @close="editing = undefined">
      <form class="form" @submit.prevent="keep">
        <p class="row">
          <BFormCheckbox v-model="form.text" class="tick">a text</BFormCheckbox
          ><BFormCheckbox v-model="form.email" class="tick">an email</BFormCheckbox
          ><FormRow label="How" hides-label
            ><BFormSelect v-model="form.match"
              ><option v-for="[match, words] in MATCH" :key="match" :value="match">{{ words }}</option></BFormSelect
            ></FormRow
          ><FormRow label="Words, by comma" hides-label class="grow"
            ><BFormInput v-model="form.words" required placeholder="HELLO, hello there" autofocus
          /></FormRow>
        </p>
        <FormRow label="Gets the tags"><BFormInput v-model="form.tags" list="known-tags" /></FormRow
        ><FormRow label="Loses the tags"><BFormInput v-model="form.tags_off" list="known-tags" /></FormRow>
        <FormRow label="Comes onto the lists"><BFormInput v-model="form.lists" /></FormRow
        ><FormRow label="Leaves the lists"><BFormInput v-model="form.lists_off" /></FormRow>
        <FormRow label="Goes to"
          ><BFormSelect v-model="form.assign"
            ><option value="">nobody in particular</option>
            <option v-for="one in names?.names.member" :key="one.name">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
        <FormRow label="Comes into the workflow"
          ><BFormSelect v-model="form.workflow"
            ><option :value="0">none</option>
            <option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
          ></FormRow
        >
        <FormRow label="Is answered" class="all"
          ><BFormTextarea
            v-model="form.answer"
            rows="2"
            maxlength="1000"
            placeholder='Thank you, {{ contact.first_name | default: "and welcome" }}.'
        /></FormRow>
        <FormRow label="after so many minutes"><BFormInput v-model.number="form.after" type="number" min="0" max="10080" /></FormRow
        ><BFormCheckbox v-model="form.on" class="tick">the rule is on</BFormCheckbox>
        <datalist id="known-tags"><option v-for="one in names?.names.tag" :key="one.name" :value="one.name" /></datalist>
        <div class="actions all">
          <BButton variant="primary" type="submit" :disabled="pending || !(form.text || form.email)">Keep the rule</BButton
          ><BButton variant="link" @click="close">Not now</BButton>
        </div>
      </form>
    </Ask>
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
.plain {
  list-style: none;
  padding: 0;
  margin: 0;
}
.plain li {
  border-top: 1px solid var(--rule);
  padding: 10px 0;
}
.begins {
  margin: 4px 0 0;
  white-space: pre-line;
  max-height: 6.2em;
  overflow: hidden;
  overflow-wrap: anywhere;
  max-width: 46rem;
}
section {
  margin-top: 26px;
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
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 20px;
}
.form p,
.all {
  grid-column: 1 / -1;
}
.form input:not([type="checkbox"]),
.form select {
  width: 100%;
}
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
