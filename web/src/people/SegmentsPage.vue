<script setup lang="ts">
/** Segments: conditions in words, kept by name; how many people fit shows while one writes, with the first of them. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { refDebounced } from "@vueuse/core";
import { LIVE } from "@/ui/useLive";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import { plain, type Condition } from "@/workflows/written";
import { chosen } from "./chosen";
import ConditionWords from "./ConditionWords.vue";
import EnrolAsk from "./EnrolAsk.vue";
import PeopleTabs from "./PeopleTabs.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";

const account = useAccount();
const cache = useQueryClient();
const { data: details } = useAccountDetails();
const may = (right: string) => details.value?.rights.includes(right) ?? false;
const { data: segments, ...segmentsRead } = useQuery({
  queryKey: ["segments", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/segments", { params: { path: { account: account.value } } })),
  meta: LIVE,
});

const editing = ref<Schemas["SegmentOut"] | "new">();
const name = ref("");
const where = ref<Condition>({ test: "tag", tag: "", has: true });
function open(segment: Schemas["SegmentOut"] | "new") {
  editing.value = segment;
  name.value = segment === "new" ? "" : segment.name;
  where.value = segment === "new" ? { test: "all", of: [{ test: "tag", tag: "", has: true }] } : (plain(segment.condition) as Condition);
}
const asked = refDebounced(where, 200);
const { data: found, error, isPlaceholderData: counting } = useQuery({
  queryKey: ["segment-people", account, asked],
  queryFn: () =>
    ok(api.POST("/api/accounts/{account}/contacts/find", { params: { path: { account: account.value } }, body: { who: chosen({ where: asked.value as never }), order: "name", page: 1 } })),
  enabled: () => !!editing.value,
  placeholderData: keepPreviousData,
  retry: false,
});
const incomplete = computed(() => error.value?.message ?? "");

const { pending, act } = usePending();
async function keep() {
  const body = { name: name.value, condition: where.value as never };
  const own = editing.value;
  const done = await act(() =>
    own === "new"
      ? ok(api.POST("/api/accounts/{account}/segments", { params: { path: { account: account.value } }, body }))
      : ok(api.PUT("/api/accounts/{account}/segments/{segment_id}", { params: { path: { account: account.value, segment_id: own?.id ?? 0 } }, body })),
  );
  if (!done) return;
  tell(`“${name.value}” is kept.`);
  editing.value = undefined;
  cache.invalidateQueries();
}
async function drop(segment: Schemas["SegmentOut"]) {
  const again = { name: segment.name, condition: segment.condition };
  const done = await act(() => ok(api.DELETE("/api/accounts/{account}/segments/{segment_id}", { params: { path: { account: account.value, segment_id: segment.id } } })));
  cache.invalidateQueries();
  if (!done) return;
  tell(`“${segment.name}” is gone; its people are where they were.`, async () => {
    await ok(api.POST("/api/accounts/{account}/segments", { params: { path: { account: account.value } }, body: again }));
    cache.invalidateQueries();
  });
}
const enrolling = ref<Schemas["SegmentOut"]>();
</script>

<template>
  <div class="page">
    <PeopleTabs />
    <div class="row">
      <h1>Segments</h1>
      <span class="soft">a condition with a name; who is in it is found anew each time</span>
      <span class="grow" />
      <button v-if="may('people') && !editing" @click="open('new')">New segment</button>
    </div>
    <ReadState :of="segmentsRead" what="The segments">
    <form v-if="editing" class="edit" @submit.prevent="keep">
      <div class="row">
        <label><span>Name</span><input v-model.trim="name" required maxlength="120" autofocus /></label>
        <p class="count" :class="{ stale: counting }" :aria-busy="counting" role="status"><strong v-if="found && !incomplete">{{ many(found.count, "person", "people") }}</strong><span v-else class="gorse">◷ {{ incomplete || "counting…" }}</span></p>
      </div>
      <p class="small soft whom">Everybody for whom</p>
      <ConditionWords v-model="where" />
      <p v-if="found?.rows.length && !incomplete" class="small soft who">{{ found.rows.slice(0, 8).map((row) => row.name).join(", ") }}<template v-if="found.count > 8"> and {{ found.count - 8 }} more</template></p>
      <div class="actions"><button :disabled="pending || !name || !!incomplete">Keep the segment</button><button type="button" class="link" @click="editing = undefined">Leave as it was</button></div>
    </form>
    <table v-if="segments?.length">
      <thead><tr><th>Segment</th><th>Everybody for whom</th><th class="num">People now</th><th /></tr></thead>
      <tbody>
        <tr v-for="one in segments" :key="one.id">
          <td class="serif"><RouterLink :to="{ path: `/${account}/people`, query: { segment: one.name } }">{{ one.name }}</RouterLink></td>
          <td class="serif words">{{ one.words }}</td>
          <td class="num">{{ one.count.toLocaleString("en-GB") }}</td>
          <td class="small acts">
            <template v-if="may('people')"><button class="link" @click="open(one)">Change</button> <button class="link" @click="enrolling = one">Enrol…</button> <button class="link" @click="drop(one)">Drop</button></template>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="segments && !editing" class="empty">No segment yet. One could be “Keen, not booked”: has the tag “taster day”, score is at least 20, has no appointment to come.</p>
    </ReadState>
    <EnrolAsk v-if="enrolling" :who="chosen({ segment: enrolling.name })" :count="enrolling.count" @close="enrolling = undefined" @done="tell($event); enrolling = undefined; cache.invalidateQueries()" />
  </div>
</template>

<style scoped>
.edit { border-top: 1px solid var(--ink); border-bottom: 1px solid var(--ink); padding: 14px 0 16px; margin: 14px 0 20px; }
.edit label input { width: 20rem; }
.count { margin: 0 0 6px; align-self: end; font-size: 17px; }
.who { margin-top: 12px; }
.whom { margin: 12px 0 6px; }
.words { max-width: 38rem; }
.acts button { margin-right: 12px; }
</style>
