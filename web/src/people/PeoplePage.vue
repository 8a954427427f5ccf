<script setup lang="ts">
/** The account's contacts: search in words, choose some or all, then tag or enrol them. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, reactive, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { api, ok, type Schemas } from "@/api/client";
import { chosen } from "./chosen";
import EnrolAsk from "./EnrolAsk.vue";
import PeopleTabs from "./PeopleTabs.vue";
import { useAccount, useAccountDetails } from "@/practice/session";
import Ask from "@/ui/Ask.vue";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const { data: details } = useAccountDetails();
const route = useRoute();
const router = useRouter();
const cache = useQueryClient();

const q = ref(String(route.query.q ?? ""));
const tag = ref(String(route.query.tag ?? ""));
const list = ref(String(route.query.list ?? ""));
const segment = ref(String(route.query.segment ?? ""));
const asked = computed(() => chosen({ q: q.value, tag: tag.value, list: list.value, segment: segment.value }));
const order = ref<"name" | "-name" | "added" | "-added">("-added");
const page = ref(1);
const picked = reactive(new Set<number>());
const everyone = ref(false);

watch([q, tag, list, segment], () => {
  page.value = 1;
  picked.clear();
  everyone.value = false;
  router.replace({ query: { ...(q.value && { q: q.value }), ...(tag.value && { tag: tag.value }), ...(list.value && { list: list.value }), ...(segment.value && { segment: segment.value }) } });
});

// Until the answer comes, the rows shown are those of what was asked before: they are not counted as found, nor chosen.
const { data, isPlaceholderData: looking, ...reading } = useQuery({
  queryKey: ["contacts", account, asked, order, page],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/contacts/find", {
        params: { path: { account: account.value } },
        body: { who: asked.value, order: order.value, page: page.value },
      }),
    ),
  placeholderData: keepPreviousData,
  meta: LIVE,
});
const { data: tags, ...tagsRead } = useQuery({
  queryKey: ["tags", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/tags", { params: { path: { account: account.value } } })),
});

const { data: segments, ...segmentsRead } = useQuery({
  queryKey: ["segments", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/segments", { params: { path: { account: account.value } } })),
});
const { data: lists, ...listsRead } = useQuery({
  queryKey: ["lists", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/lists", { params: { path: { account: account.value } } })),
});
const { data: names, ...namesRead } = useQuery({
  queryKey: ["names", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/names", { params: { path: { account: account.value } } })),
});

const may = (right: string) => details.value?.rights.includes(right) ?? false;
const who = computed<Schemas["Chosen"]>(() =>
  everyone.value ? asked.value : chosen({ ids: [...picked] }),
);
const count = computed(() => (everyone.value ? (data.value?.count ?? 0) : picked.size));
const allHere = computed({
  get: () => everyone.value || (!!data.value?.rows.length && data.value.rows.every((row) => picked.has(row.id))),
  set: (on) => {
    everyone.value = false;
    for (const row of data.value?.rows ?? []) if (on) picked.add(row.id);
    else picked.delete(row.id);
  },
});
function pick(id: number, on: boolean) {
  everyone.value = false;
  if (on) picked.add(id);
  else picked.delete(id);
}
function sortBy(by: "name" | "added") {
  order.value = order.value === by ? `-${by}` : by;
}

const asking = ref<"" | "tag" | "list" | "assign" | "enrol" | "new">("");
const newTag = ref("");
/** What was done to many is said with what takes it back; workflows it has started are not stopped by that. */
function did(words: string, back?: () => Promise<unknown>) {
  tell(words, back && (async () => (await back(), cache.invalidateQueries())));
  asking.value = "";
  cache.invalidateQueries();
}
const { pending, act } = usePending();
const in_ = { path: { account: account.value } };
async function tagThem(add: boolean) {
  const tag = newTag.value;
  const put = (whom: typeof who.value, on: boolean) => ok(api.POST("/api/accounts/{account}/contacts/tag", { params: in_, body: { who: whom, tag, add: on } }));
  await act(async () => {
    const { count, ids } = await put(who.value, add);
    did(`${many(count, "contact")} ${add ? "got" : "lost"} the tag “${tag}”.`, count ? () => put(chosen({ ids }), !add) : undefined);
  });
}

const newList = ref("");
async function listThem(add: boolean) {
  const list = newList.value;
  const put = (whom: typeof who.value, on: boolean) => ok(api.POST("/api/accounts/{account}/contacts/list", { params: in_, body: { who: whom, list, add: on } }));
  await act(async () => {
    const { count, ids } = await put(who.value, add);
    did(`${many(count, "contact")} ${add ? "came onto" : "left"} the list “${list}”.`, count ? () => put(chosen({ ids }), !add) : undefined);
  });
}
const member = ref("");
async function assign() {
  const give = (whom: typeof who.value, to: string) => ok(api.POST("/api/accounts/{account}/contacts/assign", { params: in_, body: { who: whom, member: to } }));
  await act(async () => {
    const { count, before } = await give(who.value, member.value);
    const back = () => Promise.all(Object.entries(before).map(([name, ids]) => give(chosen({ ids }), name)));
    did(`${many(count, "contact")} now with ${member.value || "nobody of their own"}.`, count ? back : undefined);
  });
}
async function takeOut(format: "csv" | "xlsx" | "vcf") {
  await act(async () => {
    const answer = await api.POST("/api/accounts/{account}/contacts/export/{format}", { params: { path: { account: account.value, format } }, body: count.value ? who.value : asked.value, parseAs: "blob" });
    const blob = (await ok(Promise.resolve(answer as never))) as Blob;
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = decodeURIComponent(answer.response.headers.get("Content-Disposition")?.split("''")[1] ?? `people.${format}`);
    link.click();
    URL.revokeObjectURL(link.href);
    tell(`${link.download} was made.`);
  });
}

const fields = reactive({ first_name: "", last_name: "", email: "", mobile: "" });
async function add() {
  const done = await act(async () => {
    const made = await ok(api.POST("/api/accounts/{account}/contacts", { params: { path: { account: account.value } }, body: { ...fields } }));
    router.push(`/${account.value}/people/${made.id}`);
  });
  if (done) cache.invalidateQueries({ queryKey: ["contacts"] });
}
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row">
      <h1>People</h1>
      <span class="soft">{{ looking ? "looking…" : !data ? "" : `${many(data.count, "contact")}${q || tag || list || segment ? " found" : ""}` }}</span>
      <span class="grow" />
      <button v-if="may('people')" class="plain" @click="asking = 'new'">Add one</button>
      <details v-if="may('import')" class="out">
        <summary>Export {{ count ? many(count, "person", "people") : "these" }}</summary>
        <p><button class="link" @click="takeOut('csv')">CSV</button> <button class="link" @click="takeOut('xlsx')">workbook</button> <button class="link" @click="takeOut('vcf')">vCard</button></p>
      </details>
      <RouterLink v-if="may('import')" class="button" :to="`/${account}/people/bring-in`">Bring in a file</RouterLink>
    </div>
    <ReadState :of="[reading, tagsRead, segmentsRead, listsRead, namesRead]" what="People">
    <div class="row tools">
      <label><span>Search by name, email or number</span><input v-model.trim="q" type="search" /></label>
      <label>
        <span>With the tag</span>
        <select v-model="tag">
          <option value="">any or none</option>
          <option v-for="one in tags" :key="one.name" :value="one.name">{{ one.name }} ({{ one.contacts }})</option>
        </select>
      </label>
      <label v-if="lists?.length">
        <span>On the list</span>
        <select v-model="list"><option value="">any or none</option><option v-for="one in lists" :key="one.name" :value="one.name">{{ one.name }} ({{ one.contacts }})</option></select>
      </label>
      <label v-if="segments?.length">
        <span>In the segment</span>
        <select v-model="segment"><option value="">any or none</option><option v-for="one in segments" :key="one.id" :value="one.name">{{ one.name }} ({{ one.count }})</option></select>
      </label>
      <span class="grow" />
      <template v-if="count">
        <strong>{{ many(count, "person", "people") }} chosen</strong>
        <button v-if="allHere && !everyone && !looking && (data?.count ?? 0) > picked.size" class="link" @click="everyone = true">choose all {{ data?.count }}</button>
        <template v-if="may('people')">
          <button class="plain" @click="asking = 'tag'">Tag…</button>
          <button class="plain" @click="asking = 'list'">List…</button>
          <button class="plain" @click="asking = 'assign'">Give to…</button>
          <button @click="asking = 'enrol'">Enrol…</button>
        </template>
      </template>
    </div>
    <table v-if="data?.rows.length" :class="{ stale: looking }" :aria-busy="looking">
      <thead>
        <tr>
          <th><input v-model="allHere" type="checkbox" :disabled="looking" aria-label="Choose all on this page" /></th>
          <th :aria-sort="order === 'name' ? 'ascending' : order === '-name' ? 'descending' : 'none'"><button class="link" @click="sortBy('name')">Name</button></th>
          <th>Email</th><th>Mobile</th><th>Tags</th>
          <th :aria-sort="order === 'added' ? 'ascending' : order === '-added' ? 'descending' : 'none'"><button class="link" @click="sortBy('added')">Added</button></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in data.rows" :key="row.id">
          <td><input type="checkbox" :disabled="looking" :checked="everyone || picked.has(row.id)" :aria-label="`Choose ${row.name}`" @change="pick(row.id, ($event.target as HTMLInputElement).checked)" /></td>
          <td class="serif"><RouterLink :to="`/${account}/people/${row.id}`">{{ row.name }}</RouterLink></td>
          <td>{{ row.email }}<small v-if="row.opted_out.includes('email')" class="rust"> opted out</small></td>
          <td>{{ row.mobile }}<small v-if="row.opted_out.includes('text')" class="rust"> opted out</small></td>
          <td><span v-for="name in row.tags" :key="name" class="tag">{{ name }}</span></td>
          <td class="soft">{{ row.added }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data && (q || tag || list || segment)" class="empty">Nobody fits that. Try fewer letters, or another tag.</p>
    <p v-else-if="data" class="empty">Nobody is here yet. Bring in a spreadsheet with a heading row, for instance “Name, Email, Mobile”, or add one person.</p>
    <p v-if="(data?.pages ?? 1) > 1" class="row pages">
      <button class="plain" :disabled="page <= 1" @click="page--">Before</button>
      <span>Page {{ data?.page }} of {{ data?.pages }}</span>
      <button class="plain" :disabled="page >= (data?.pages ?? 1)" @click="page++">Next</button>
    </p>

    </ReadState>
    <Ask v-if="asking === 'tag'" v-slot="{ close }" :title="`Tag ${many(count, 'person', 'people')}`" @close="asking = ''">
      <form @submit.prevent="tagThem(true)">
        <label><span>Tag</span><input v-model.trim="newTag" list="all-tags" required maxlength="80" /></label>
        <datalist id="all-tags"><option v-for="one in tags" :key="one.name" :value="one.name" /></datalist>
        <p class="soft small">Published workflows that start on this tag start for those who did not have it.</p>
        <div class="actions">
          <button :disabled="pending">Tag them</button>
          <button type="button" class="plain" :disabled="pending || !newTag" @click="tagThem(false)">Take the tag off</button>
          <button type="button" class="link" @click="close">Not now</button>
        </div>
      </form>
    </Ask>
    <Ask v-if="asking === 'list'" v-slot="{ close }" :title="`Put ${many(count, 'person', 'people')} on a list`" @close="asking = ''">
      <form @submit.prevent="listThem(true)">
        <label><span>List</span><input v-model.trim="newList" list="all-lists" required maxlength="120" /></label>
        <datalist id="all-lists"><option v-for="one in lists" :key="one.name" :value="one.name" /></datalist>
        <div class="actions"><button :disabled="pending">Put them on it</button><button type="button" class="plain" :disabled="pending || !newList" @click="listThem(false)">Take them off it</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
    <Ask v-if="asking === 'assign'" v-slot="{ close }" :title="`Who looks after ${many(count, 'person', 'people')}?`" @close="asking = ''">
      <form @submit.prevent="assign">
        <label><span>Member</span><select v-model="member"><option value="">nobody of their own</option><option v-for="one in names?.names.member" :key="one.name" :value="one.name">{{ one.name }}</option></select></label>
        <div class="actions"><button :disabled="pending">Give them to {{ member || "nobody" }}</button><button type="button" class="link" @click="close">Not now</button></div>
      </form>
    </Ask>
    <EnrolAsk v-if="asking === 'enrol'" :who="who" :count="count" @close="asking = ''" @done="did($event)" />
    <Ask v-if="asking === 'new'" v-slot="{ close }" title="Add one person" @close="asking = ''">
      <form class="new" @submit.prevent="add">
        <label><span>First name</span><input v-model="fields.first_name" autofocus /></label>
        <label><span>Last name</span><input v-model="fields.last_name" /></label>
        <label><span>Email</span><input v-model="fields.email" /></label>
        <label><span>Mobile</span><input v-model="fields.mobile" /></label>
        <div class="actions">
          <button :disabled="pending">Add</button>
          <button type="button" class="link" @click="close">Not now</button>
        </div>
      </form>
    </Ask>
  </div>
</template>

<style scoped>
.tools { border-top: 1px solid var(--ink); margin-top: 12px; padding: 12px 0; align-items: end; }
.tools input { width: 15rem; }
.tools select { max-width: 11rem; }
.out { position: relative; }
.out summary { cursor: pointer; color: var(--sea); }
.out p { position: absolute; right: 0; z-index: 2; background: var(--paper); border: 1px solid var(--ink); padding: 8px 14px; white-space: nowrap; }
.out button { margin-right: 10px; }
th button { font-weight: 600; }
.pages { margin-top: 14px; }
.new { display: grid; grid-template-columns: 1fr 1fr; gap: 12px; }
.new input { width: 100%; }
.new .actions, .new .fault { grid-column: 1 / -1; }
</style>
