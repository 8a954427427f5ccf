<script setup lang="ts">
/** Rules for words that come in by text or email, in the order in which they are asked, with a place to try one. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import PeopleTabs from "@/people/PeopleTabs.vue";
import { useAccount, useAccountDetails } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { refDebounced } from "@vueuse/core";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { cut } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";

type Rule = Schemas["RuleOut"];
const MATCH: [Schemas["RuleIn"]["match"], string][] = [["is", "is exactly"], ["begins", "begins with"], ["contains", "contains"]];
const account = useAccount();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value }));
const { data: details } = useAccountDetails();
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
const { data: rules, ...rulesRead } = useQuery({ queryKey: ["incoming-rules", account], queryFn: () => ok(api.GET("/api/accounts/{account}/incoming-rules", { params: { path: path.value } })), meta: LIVE });
const { data: names, ...namesRead } = useQuery({ queryKey: ["names", account], queryFn: () => ok(api.GET("/api/accounts/{account}/names", { params: { path: path.value } })) });
const { data: workflows, ...workflowsRead } = useQuery({ queryKey: ["workflows", account], queryFn: () => ok(api.GET("/api/accounts/{account}/workflows", { params: { path: path.value } })) });
const matchWords = (one: Rule) => MATCH.find(([match]) => match === one.match)?.[1];

const trying = ref("");
const by = ref<"text" | "email">("text");
const typed = refDebounced(trying, 150);
const { data: tried } = useQuery({
  queryKey: ["incoming-try", account, typed, by, rules],
  queryFn: () => ok(api.POST("/api/accounts/{account}/incoming-try", { params: { path: path.value }, body: { text: typed.value, channel: by.value } })),
  enabled: () => !!typed.value.trim(),
});

const { pending, act } = usePending();
const editing = ref<Rule | "new">();
const form = reactive({ on: true, text: true, email: false, match: "is" as NonNullable<Schemas["RuleIn"]["match"]>, words: "", tags: "", tags_off: "", lists: "", lists_off: "", assign: "", workflow: 0, answer: "", after: 0 });
function edit(rule: Rule | "new") {
  editing.value = rule;
  const own = rule === "new" ? undefined : rule;
  const acts = own?.acts;
  Object.assign(form, {
    on: own?.on ?? true, text: own?.channels?.includes("text") ?? true, email: own?.channels?.includes("email") ?? false, match: own?.match ?? "is", words: own?.words.join(", ") ?? "",
    tags: acts?.tags?.join(", ") ?? "", tags_off: acts?.tags_off?.join(", ") ?? "", lists: acts?.lists?.join(", ") ?? "", lists_off: acts?.lists_off?.join(", ") ?? "", assign: acts?.assign ?? "", workflow: acts?.workflow ?? 0, answer: acts?.answer ?? "", after: acts?.after ?? 0,
  });
}
const set = (next: Rule[]) => cache.setQueryData(["incoming-rules", account.value], next);
async function keep() {
  const own = editing.value;
  const channels = [...(form.text ? (["text"] as const) : []), ...(form.email ? (["email"] as const) : [])];
  const body: Schemas["RuleIn"] = {
    on: form.on, channels, match: form.match, words: cut(form.words),
    acts: { tags: cut(form.tags), tags_off: cut(form.tags_off), lists: cut(form.lists), lists_off: cut(form.lists_off), assign: form.assign, workflow: form.workflow, answer: form.answer, after: form.after },
  };
  const done = await act(async () => set(own === "new" ? await ok(api.POST("/api/accounts/{account}/incoming-rules", { params: { path: path.value }, body })) : await ok(api.PUT("/api/accounts/{account}/incoming-rules/{rule_id}", { params: { path: { ...path.value, rule_id: own?.id ?? 0 } }, body }))));
  if (done) editing.value = undefined;
}
const move = (rule: Rule, way: "up" | "down") => act(async () => set(await ok(api.POST("/api/accounts/{account}/incoming-rules/{rule_id}/{way}", { params: { path: { ...path.value, rule_id: rule.id, way } } }))));
/** Emails from people nobody here knows; no rule fitted them. */
const { data: strangers, ...strangersRead } = useQuery({ queryKey: ["strangers", account], queryFn: () => ok(api.GET("/api/accounts/{account}/strangers", { params: { path: path.value } })), meta: LIVE });
const came = ref<Schemas["ContactRow"]>();
async function settle(id: number, takeIn: boolean) {
  const params = { path: { ...path.value, stranger_id: id } };
  came.value = undefined;
  await act(async () => {
    if (takeIn) came.value = await ok(api.POST("/api/accounts/{account}/strangers/{stranger_id}/take-in", { params }));
    else await ok(api.DELETE("/api/accounts/{account}/strangers/{stranger_id}", { params }));
  });
  cache.invalidateQueries({ queryKey: ["strangers"] });
}
const drop = (rule: Rule) => act(async () => set(await ok(api.DELETE("/api/accounts/{account}/incoming-rules/{rule_id}", { params: { path: { ...path.value, rule_id: rule.id } } }))));
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row"><h1>Incoming words</h1><span class="soft">asked in this order; the first that fits acts, and no other</span><span class="grow" /><button v-if="may" @click="edit('new')">New rule</button></div>
    <ReadState :of="[rulesRead, namesRead, workflowsRead, strangersRead]" what="Incoming words">
    <p class="row try"><label class="grow"><span>Try {{ by === "text" ? "a text" : "an email" }}</span><input v-model="trying" placeholder="SAIL" /></label><label><span class="sr">As what it comes</span><select v-model="by"><option value="text">by text</option><option value="email">by email</option></select></label><span role="status" class="serif told">{{ trying.trim() ? tried?.words : "" }}<span v-if="!trying.trim()" class="soft">Type what somebody might write, and see what it would do.</span></span></p>
    <table v-if="rules?.length">
      <thead><tr><th class="num">#</th><th>When a message</th><th>Bluffside</th><th class="num">So far</th><th>Last</th><th /></tr></thead>
      <tbody>
        <tr v-for="(one, at) in rules" :key="one.id" :class="{ fits: trying.trim() && tried?.rule === one.id }">
          <td class="num">{{ at + 1 }}</td>
          <td class="serif"><span class="soft">by {{ one.channels?.join(" or ") }}</span> {{ matchWords(one) }} <template v-for="(word, n) in one.words" :key="word">{{ n ? " or " : "" }}“{{ word }}”</template><div v-if="one.hidden" class="gorse small">▲ {{ one.hidden }}</div></td>
          <td class="serif">{{ one.does }}<span v-if="!one.on" class="soft"> · off</span></td>
          <td class="num">{{ one.fitted }}</td>
          <td>{{ one.last || "never" }}</td>
          <td class="small acts"><template v-if="may"><button class="link icon" :disabled="!at" :aria-label="`Rule ${at + 1} up`" @click="move(one, 'up')">↑</button><button class="link icon" :disabled="at === rules.length - 1" :aria-label="`Rule ${at + 1} down`" @click="move(one, 'down')">↓</button><button class="link" @click="edit(one)">Change</button><button class="link" @click="drop(one)">Drop</button></template></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="rules" class="empty">No rule yet. One could be: a text that is exactly “SAIL” tags “poster”, answers at once, and enrols in the welcome.</p>
    <p class="soft small more">Words that opt out (stop, quit, end, unsubscribe …) act before any rule; “help” and “info” are answered with who writes, how to stop, and a link to what one hears. Who texts from a number nobody here has becomes a contact; so does who writes an email that a rule fits.</p>
    <section v-if="may || strangers?.length" aria-label="Emails from people nobody here knows">
      <h2>Emails from people nobody here knows</h2>
      <p v-if="came" class="kelp" role="status">✓ <RouterLink :to="`/${account}/people/${came.id}`">{{ came.name || came.email }}</RouterLink> is a contact now; what they wrote waits under Today.</p>
      <ul v-if="strangers?.length" class="plain">
        <li v-for="one in strangers" :key="one.id">
          <div class="row"><strong class="serif">{{ one.name || one.address }}</strong><span v-if="one.name" class="soft">{{ one.address }}</span><span class="soft">{{ one.at }}</span><span class="grow" /><button class="link" :disabled="pending" @click="settle(one.id, true)">Make them a contact</button><button class="link" :disabled="pending" @click="settle(one.id, false)">Throw it away</button></div>
          <p class="serif begins"><strong v-if="one.subject">{{ one.subject }}. </strong>{{ one.text }}</p>
        </li>
      </ul>
      <p v-else class="soft">None wait. An email that no rule fits, from an address nobody here has, is kept here until somebody decides.</p>
    </section>
    </ReadState>
    <Ask v-if="editing" v-slot="{ close }" :title="editing === 'new' ? 'A new rule' : 'Change the rule'" wide @close="editing = undefined">
      <form class="form" @submit.prevent="keep">
        <p class="row"><label class="tick"><input v-model="form.text" type="checkbox" /> a text</label><label class="tick"><input v-model="form.email" type="checkbox" /> an email</label><label><span class="sr">How</span><select v-model="form.match"><option v-for="[match, words] in MATCH" :key="match" :value="match">{{ words }}</option></select></label><label class="grow"><span class="sr">Words, by comma</span><input v-model="form.words" required placeholder="SAIL, sailing" autofocus /></label></p>
        <label><span>Gets the tags</span><input v-model="form.tags" list="known-tags" /></label><label><span>Loses the tags</span><input v-model="form.tags_off" list="known-tags" /></label>
        <label><span>Comes onto the lists</span><input v-model="form.lists" /></label><label><span>Leaves the lists</span><input v-model="form.lists_off" /></label>
        <label><span>Goes to</span><select v-model="form.assign"><option value="">nobody in particular</option><option v-for="one in names?.names.member" :key="one.name">{{ one.name }}</option></select></label>
        <label><span>Comes into the workflow</span><select v-model.number="form.workflow"><option :value="0">none</option><option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></select></label>
        <label class="all"><span>Is answered</span><textarea v-model="form.answer" rows="2" maxlength="1000" placeholder="Welcome aboard, {{ contact.first_name | default: &quot;sailor&quot; }}." /></label>
        <label><span>after so many minutes</span><input v-model.number="form.after" type="number" min="0" max="10080" /></label><label class="tick"><input v-model="form.on" type="checkbox" /> the rule is on</label>
        <datalist id="known-tags"><option v-for="one in names?.names.tag" :key="one.name" :value="one.name" /></datalist>
        <div class="actions all"><button :disabled="pending || !(form.text || form.email)">Keep the rule</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.try { margin-top: 10px; border-top: 1px solid var(--ink); padding: 12px 0; align-items: end; }
.try input { width: 100%; }
.try .grow { flex: 0 1 22rem; }
.told { font-size: 16px; padding-bottom: 5px; }
.plain { list-style: none; padding: 0; margin: 0; }
.plain li { border-top: 1px solid var(--rule); padding: 10px 0; }
.begins { margin: 4px 0 0; white-space: pre-line; max-height: 6.2em; overflow: hidden; overflow-wrap: anywhere; max-width: 46rem; }
section { margin-top: 26px; }
.more { margin-top: 12px; }
.try select { height: 33px; padding-block: 0; }
.fits { background: var(--mist); box-shadow: -3px 0 0 var(--sea); }
.acts { white-space: nowrap; }
.acts button { margin-right: 10px; }
.form { display: grid; grid-template-columns: 1fr 1fr; gap: 10px 20px; }
.form p, .all { grid-column: 1 / -1; }
.form input:not([type="checkbox"]), .form select { width: 100%; }
.tick { display: flex; gap: 6px; align-items: baseline; }
</style>
