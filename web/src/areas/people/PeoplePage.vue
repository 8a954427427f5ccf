<script setup lang="ts">
/** The account's contacts: search in words, choose some or all, then tag or enrol them. */
import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { chosen } from "@/shared/chosen";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import { useAccount } from "@/queries/session";
import { LIVE } from "@/ui/useLive";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { useAsking } from "@/ui/useAsking";
import EmptyState from "@/ui/EmptyState.vue";
import AddOneAsk from "./AddOneAsk.vue";
import ManyAsk from "./ManyAsk.vue";
import { useExport } from "./useExport";
import PageHead from "@/ui/PageHead.vue";

const account = useAccount();
const route = useRoute();
const router = useRouter();
const touched = useTouched();

const q = ref(String(route.query.q ?? ""));
const tag = ref(String(route.query.tag ?? ""));
const list = ref(String(route.query.list ?? ""));
const segment = ref(String(route.query.segment ?? ""));
const asked = computed(() => chosen({ q: q.value, tag: tag.value, list: list.value, segment: segment.value }));
const order = ref("-added");
const page = ref(1);
const picked = ref<ReadonlySet<number>>(new Set());
const everyone = ref(false);

watch([q, tag, list, segment], () => {
  page.value = 1;
  picked.value = new Set();
  everyone.value = false;
  void router.replace({
    query: {
      ...(q.value && { q: q.value }),
      ...(tag.value && { tag: tag.value }),
      ...(list.value && { list: list.value }),
      ...(segment.value && { segment: segment.value }),
    },
  });
});

// Until the answer comes, the rows shown are those of what was asked before: they are not counted as found, nor chosen.
const {
  data,
  isPlaceholderData: looking,
  ...reading
} = useQuery({
  queryKey: ["contacts", account, asked, order, page],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/contacts/find", {
        params: { path: { account: account.value } },
        body: { who: asked.value, order: order.value as Order, page: page.value },
      }),
    ),
  placeholderData: keepPreviousData,
  meta: LIVE,
});
const { data: tags, ...tagsRead } = useRead("/tags");

const { data: segments, ...segmentsRead } = useRead("/segments");
const { data: lists, ...listsRead } = useRead("/lists");
const { data: names, ...namesRead } = useRead("/names");

const may = useMay();
const who = computed<Schemas["Chosen"]>(() => (everyone.value ? asked.value : chosen({ ids: [...picked.value] })));
const count = computed(() => (everyone.value ? (data.value?.count ?? 0) : picked.value.size));
const allHere = computed(() => !!data.value?.rows.length && data.value.rows.every((row) => picked.value.has(row.id)));
watch(picked, () => (everyone.value = false));
type Order = Schemas["Wanted"]["order"];
/** Where nothing has earned points there is no score to show. */
const scored = computed(() => order.value.endsWith("score") || !!data.value?.rows.some((row) => row.score !== null));
const further = computed(() => {
  const ordered = order.value.match(/^-?score:(.+)$/)?.[1];
  return [...new Set([...(ordered ? [ordered] : []), ...(data.value?.rows ?? []).flatMap((row) => Object.keys(row.further))])].sort();
});
const rows = computed(() =>
  (data.value?.rows ?? []).map((row) => ({
    ...row,
    ...Object.fromEntries(Object.entries(row.further).map(([name, points]) => [`score:${name}`, points])),
  })),
);
const columns = computed<Column[]>(() => [
  { key: "name", label: "Name", sortable: true, heads: true, class: "serif" },
  { key: "email", label: "Email" },
  { key: "mobile", label: "Mobile" },
  { key: "tags", label: "Tags" },
  ...(scored.value ? [{ key: "score", label: "Score", num: true, sortable: true }] : []),
  ...further.value.map((name) => ({ key: `score:${name}`, label: name, num: true, sortable: true })),
  { key: "added", label: "Added", sortable: true, class: "soft" },
]);

const asking = useAsking("tag", "list", "assign", "enrol", "new");
/** What was done to many is said with what takes it back; workflows it has started are not stopped by that. */
function did(words: string, back?: () => Promise<unknown>) {
  tell(words, back && (async () => (await back(), touched("everything"))));
  asking.value = "";
  void touched("everything");
}
const { FORMATS, takeOut } = useExport();
</script>

<template>
  <div class="page">
    <PageHead
      title="People"
      :about="looking ? 'looking…' : !data ? '' : `${many(data.count, 'contact')}${q || tag || list || segment ? ' found' : ''}`"
      ><BButton v-if="may('people')" variant="outline-primary" @click="asking = 'new'">Add one</BButton>
      <BDropdown v-if="may('import')" variant="link" :text="`Export ${count ? many(count, 'person', 'people') : 'these'}`">
        <BDropdownItem v-for="[format, words] in FORMATS" :key="format" link-class="small" @click="takeOut(format, count ? who : asked)">{{
          words
        }}</BDropdownItem>
      </BDropdown>
      <BLink v-if="may('import')" class="btn btn-primary" :to="{ name: 'import' }">Bring in a file</BLink></PageHead
    >
    <ReadState :of="[reading, tagsRead, segmentsRead, listsRead, namesRead]" what="People">
      <div class="row tools">
        <FormRow label="Search by name, email or number"><BFormInput v-model.trim="q" type="search" /></FormRow>
        <FormRow label="With the tag"
          ><BFormSelect v-model="tag">
            <option value="">any or none</option>
            <option v-for="one in tags" :key="one.name" :value="one.name">{{ one.name }} ({{ one.contacts }})</option>
          </BFormSelect></FormRow
        >
        <FormRow v-if="lists?.length" label="On the list"
          ><BFormSelect v-model="list"
            ><option value="">any or none</option>
            <option v-for="one in lists" :key="one.name" :value="one.name">{{ one.name }} ({{ one.contacts }})</option></BFormSelect
          ></FormRow
        >
        <FormRow v-if="segments?.length" label="In the segment"
          ><BFormSelect v-model="segment"
            ><option value="">any or none</option>
            <option v-for="one in segments" :key="one.id" :value="one.name">{{ one.name }} ({{ one.count }})</option></BFormSelect
          ></FormRow
        >
        <span class="grow" />
        <template v-if="count">
          <strong>{{ many(count, "person", "people") }} chosen</strong>
          <BButton v-if="allHere && !everyone && !looking && (data?.count ?? 0) > picked.size" variant="link" @click="everyone = true"
            >choose all {{ data?.count }}</BButton
          >
          <template v-if="may('people')">
            <BButton variant="outline-primary" @click="asking = 'tag'">Tag…</BButton>
            <BButton variant="outline-primary" @click="asking = 'list'">List…</BButton>
            <BButton variant="outline-primary" @click="asking = 'assign'">Give to…</BButton>
            <BButton variant="primary" @click="asking = 'enrol'">Enrol…</BButton>
          </template>
        </template>
      </div>
      <DataTable
        v-if="data?.rows.length"
        v-model:sorted="order"
        v-model:chosen="picked"
        v-model:page="page"
        caption="People"
        :rows="rows"
        :columns="columns"
        :busy="looking"
        :chooses="(row) => `Choose ${row.name}`"
        :pages="data.pages">
        <template #name="{ item }"
          ><RouterLink :to="{ name: 'contact', params: { contact: item.id } }">{{ item.name }}</RouterLink></template
        >
        <template #email="{ item }"
          >{{ item.email }}<small v-if="item.opted_out.includes('email')" class="rust"> opted out</small></template
        >
        <template #mobile="{ item }"
          >{{ item.number }}<small v-if="item.opted_out.includes('text')" class="rust"> opted out</small></template
        >
        <template #tags="{ item }"
          ><span v-for="name in item.tags" :key="name" class="tag">{{ name }}</span></template
        >
      </DataTable>
      <EmptyState v-else-if="data && (q || tag || list || segment)">Nobody fits that. Try fewer letters, or another tag.</EmptyState>
      <EmptyState v-else-if="data"
        >Nobody is here yet. Bring in a spreadsheet with a heading row, for instance “Name, Email, Mobile”, or add one person.</EmptyState
      >
    </ReadState>
    <ManyAsk
      v-if="asking === 'tag' || asking === 'list' || asking === 'assign'"
      :what="asking"
      :who="who"
      :count="count"
      :tags="tags ?? []"
      :lists="lists ?? []"
      :members="names?.names.member ?? []"
      @close="asking = ''"
      @done="did" />
    <EnrolAsk v-if="asking === 'enrol'" :who="who" :count="count" @close="asking = ''" @done="did($event)" />
    <AddOneAsk v-if="asking === 'new'" @close="asking = ''" />
  </div>
</template>

<style scoped>
.tools {
  border-top: 1px solid var(--ink);
  margin-top: 12px;
  padding: 12px 0;
  align-items: end;
}
.tools input {
  width: 15rem;
}
.tools select {
  max-width: 11rem;
}
</style>
