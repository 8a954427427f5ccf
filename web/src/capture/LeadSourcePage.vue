<script setup lang="ts">
/** One source of leads: its address, a sample that was caught, what each value of it becomes; what came, and trying again. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import PeopleTabs from "@/people/PeopleTabs.vue";
import { useAccount } from "@/practice/session";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import NameInPlace from "@/ui/NameInPlace.vue";
import { cut, many } from "@/ui/words";
import { plain } from "@/workflows/written";
import ReadState from "@/ui/ReadState.vue";

type Matching = Schemas["Matching"];
type Pointed = Schemas["Pointed"];
const OWN: [string, string][] = [["full_name", "full name"], ["first_name", "first name"], ["last_name", "last name"], ["email", "email"], ["mobile", "mobile"], ["post", "postal address"], ["zone", "time zone"]];
const HOW: [NonNullable<Pointed["how"]>, string][] = [["as_it_is", "as it is"], ["split_name", "split into first and last"], ["capitals", "with capitals"], ["lower", "in small letters"], ["day_first", "a date, day first"], ["month_first", "a date, month first"], ["comma", "a number with a comma"]];
const account = useAccount();
const route = useRoute();
const cache = useQueryClient();
const path = computed(() => ({ account: account.value, source_id: Number(route.params.source) }));
const { data: source, ...sourceRead } = useQuery({ queryKey: ["lead-source", account, () => route.params.source], queryFn: () => ok(api.GET("/api/accounts/{account}/lead-sources/{source_id}", { params: { path: path.value } })), meta: LIVE });
const { data: fields, ...fieldsRead } = useQuery({ queryKey: ["fields", account], queryFn: () => ok(api.GET("/api/accounts/{account}/fields", { params: { path: { account: account.value } } })) });
const matching = ref<Matching>();
const on = ref(true);
watch(source, (now) => {
  if (!now || (matching.value && !same.value)) return;
  matching.value = plain(now.matching);
  on.value = now.on;
}, { immediate: true });
const same = computed(() => JSON.stringify(matching.value) === kept.value);
const kept = ref("");
watch(source, (now) => { if (now && kept.value === "") kept.value = JSON.stringify(now.matching); }, { immediate: true });
const pointed = (at: string) => matching.value?.fields?.find((one) => one.path === at);
const { pending, act } = usePending();
async function keep() {
  const next = matching.value;
  if (!next) return;
  await act(async () => {
    const now = await ok(api.PUT("/api/accounts/{account}/lead-sources/{source_id}", { params: { path: path.value }, body: { on: on.value, matching: next } }));
    kept.value = JSON.stringify(now.matching);
    matching.value = plain(now.matching);
    cache.setQueryData(["lead-source", account.value, String(route.params.source)], now);
    cache.invalidateQueries({ queryKey: ["lead-source"] });
  });
}
async function rename(name: string) {
  await ok(api.PUT("/api/accounts/{account}/lead-sources/{source_id}/name", { params: { path: path.value }, body: { name } }));
  await cache.invalidateQueries();
}
function point(at: string, fills: string) {
  if (!matching.value) return;
  const others = (matching.value.fields ?? []).filter((one) => one.path !== at && one.fills !== fills);
  matching.value.fields = fills ? [...others, { path: at, fills, how: fills === "full_name" ? "split_name" : "as_it_is" }] : others;
  keep();
}
function change(one: Pointed | undefined, how: string) {
  if (one) one.how = how as Pointed["how"];
  keep();
}
async function again() {
  await act(() => ok(api.POST("/api/accounts/{account}/lead-sources/{source_id}/replay", { params: { path: path.value } })));
  cache.invalidateQueries();
}
const label = (name: string) => name.replace("field:", "").replaceAll("_", " ");
const copied = ref(false);
async function copy() {
  await navigator.clipboard.writeText(source.value?.url ?? "");
  copied.value = true;
}
</script>

<template>
  <ReadState :of="[sourceRead, fieldsRead]" what="This source" missing="There is no such source" page>
  <div v-if="source && matching" class="page">
    <PeopleTabs />
    <div class="row"><NameInPlace :name="source.name" label="Name of the source" :may="true" :keep="rename" /><span v-if="!source.on" class="soft">off: what comes waits</span><span v-else-if="!source.ready" class="thrift">◆ match an email or a mobile</span><span v-else class="kelp">✓ on</span><span class="soft">{{ source.last ? `last came ${source.last}` : "" }}</span><span class="grow" /><label class="tick"><input v-model="on" type="checkbox" @change="keep" /> on</label></div>
    <p class="row"><span class="small soft">Its address, which holds a secret:</span><code>{{ source.url }}</code><button class="link small" @click="copy">{{ copied ? "copied" : "copy" }}</button></p>
    <p v-if="!source.values.length" class="empty">Waiting for the first one. Have the other system send a test to the address above (JSON or a web form, by POST), or send one from Outside; its values appear here by themselves.</p>
    <template v-else>
      <h2>What each value becomes</h2>
      <table>
        <thead><tr><th>In the sample</th><th>says</th><th>Is the contact’s</th><th>Taken</th></tr></thead>
        <tbody>
          <tr v-for="[at, value] in (source.values as [string, string][])" :key="at">
            <td><code>{{ at }}</code></td><td class="serif value">{{ value }}</td>
            <td><select :value="pointed(at)?.fills ?? ''" :aria-label="`What ${at} is`" @change="point(at, ($event.target as HTMLSelectElement).value)"><option value="">left out</option><option v-for="[name, words] in OWN" :key="name" :value="name">{{ words }}</option><option v-for="one in fields" :key="one.id" :value="`field:${one.name}`">{{ one.name }}</option></select></td>
            <td><select v-if="pointed(at)" :value="pointed(at)?.how" :aria-label="`How ${at} is taken`" @change="change(pointed(at), ($event.target as HTMLSelectElement).value)"><option v-for="[how, words] in HOW" :key="how" :value="how">{{ words }}</option></select></td>
          </tr>
        </tbody>
      </table>
      <p class="becomes" role="status"><span class="soft">The sample would become</span> <template v-if="source.fault"><span class="rust">▲ nobody: {{ source.fault }}</span></template><template v-else><template v-for="(value, name, n) in source.understood" :key="name"><template v-if="value">{{ n ? ", " : "" }}<span class="soft">{{ label(String(name)) }}</span> <strong>{{ value }}</strong></template></template></template></p>
      <p class="row">
        <label><span>Tags they get</span><input :value="matching.tags?.join(', ')" @change="matching.tags = cut(($event.target as HTMLInputElement).value); keep()" /></label>
        <label><span>Lists they come onto</span><input :value="matching.lists?.join(', ')" @change="matching.lists = cut(($event.target as HTMLInputElement).value); keep()" /></label>
        <label><span>Who is here already</span><select v-model="matching.duplicates" @change="keep"><option value="fill">fill what is empty</option><option value="overwrite">write over</option><option value="skip">leave as they are</option></select></label><label class="tick"><input v-model="matching.trusted" type="checkbox" @change="keep" /> it is trusted: what it says changes what is known, undecided</label>
        <label><span>They agreed there to</span><select v-model="matching.consent" @change="keep"><option value="">nothing</option><option value="email">emails</option><option value="text">texts</option></select></label>
        <label v-if="matching.consent" class="grow"><span>How</span><input v-model="matching.consent_evidence" placeholder="the box on the advert’s form" @change="keep" /></label>
      </p>
    </template>
    <template v-if="source.leads.length">
      <div class="row"><h2>What came</h2><span class="soft small">{{ many(source.taken, "taken", "taken") }}, {{ source.waiting }} waiting, {{ source.failed }} failed</span><button v-if="source.waiting + source.failed" class="plain" :disabled="pending" @click="again">Try {{ source.waiting + source.failed }} again</button></div>
      <table>
        <thead><tr><th>When</th><th /><th>Who</th><th>It said</th></tr></thead>
        <tbody>
          <tr v-for="one in source.leads" :key="one.id">
            <td>{{ one.at }}</td>
            <td :class="one.state === 'taken' ? 'kelp' : one.state === 'failed' ? 'rust' : 'gorse'">{{ one.state === "taken" ? "✓ taken" : one.state === "failed" ? "▲ failed" : "◷ waits" }}<div v-if="one.reason" class="small">{{ one.reason }}</div></td>
            <td class="serif"><RouterLink v-if="one.contact_id" :to="`/${account}/people/${one.contact_id}`">{{ one.contact }}</RouterLink></td>
            <td class="small"><template v-for="([at, value], n) in (one.values as [string, string][])" :key="at">{{ n ? " · " : "" }}<span class="soft">{{ at }}</span> {{ value }}</template></td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
  </ReadState>
</template>

<style scoped>
code { font-size: 13px; overflow-wrap: anywhere; }
h2 { margin: 18px 0 4px; }
.value { max-width: 24rem; overflow-wrap: anywhere; }
.becomes { font: 17px/1.5 var(--serif); margin: 12px 0; }
.tick { display: flex; gap: 6px; align-items: baseline; }
</style>
