<script setup lang="ts">
/** Segments: conditions in words, kept by name; how many people fit shows while one writes, with the first of them. */
import { keepPreviousData, useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { useMay, useRead, useTouched } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/queries/session";
import { useSettled } from "@/ui/useSettled";
import { usePending } from "@/ui/usePending";
import { many, number } from "@/ui/words";
import { plain, type Condition } from "@/sentences/written";
import { chosen } from "@/shared/chosen";
import ConditionWords from "@/sentences/ConditionWords.vue";
import EnrolAsk from "@/shared/EnrolAsk.vue";
import ReadState from "@/ui/ReadState.vue";
import { tell } from "@/ui/told";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";
import PageHead from "@/ui/PageHead.vue";

const account = useAccount();
const touched = useTouched();
const may = useMay();
const { data: segments, ...segmentsRead } = useRead("/segments", undefined, { live: true });

const editing = ref<Schemas["SegmentOut"] | "new">();
const name = ref("");
const where = ref<Condition>({ test: "tag", tag: "", has: true });
function open(segment: Schemas["SegmentOut"] | "new") {
  editing.value = segment;
  name.value = segment === "new" ? "" : segment.name;
  where.value = segment === "new" ? { test: "all", of: [{ test: "tag", tag: "", has: true }] } : (plain(segment.condition) as Condition);
}
const asked = useSettled(where, 200);
const {
  data: found,
  error,
  isPlaceholderData: earlier,
} = useQuery({
  queryKey: ["segment-people", account, asked],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/contacts/find", {
        params: { path: { account: account.value } },
        body: { who: chosen({ where: asked.value as never }), order: "name", page: 1 },
      }),
    ),
  enabled: () => !!editing.value,
  placeholderData: keepPreviousData,
  retry: false,
});
/** Its deals, where it looks at some: a condition on deals finds these as well as whose they are. */
const ofDeals = computed(() => JSON.stringify(asked.value).includes('"test":"deal"'));
const { data: deals } = useQuery({
  queryKey: ["segment-deals", account, asked],
  queryFn: () =>
    ok(
      api.POST("/api/accounts/{account}/deals/count", {
        params: { path: { account: account.value } },
        body: chosen({ where: asked.value as never }),
      }),
    ),
  enabled: () => !!editing.value && ofDeals.value,
  retry: false,
});
const incomplete = computed(() => error.value?.message ?? "");
/** What stands there is of what was asked before, also while it is not asked yet. */
const counting = computed(() => earlier.value || asked.value !== where.value);

const { pending, act } = usePending();
async function keep() {
  const body = { name: name.value, condition: where.value as never };
  const own = editing.value;
  const done = await act(() =>
    own === "new"
      ? ok(api.POST("/api/accounts/{account}/segments", { params: { path: { account: account.value } }, body }))
      : ok(
          api.PUT("/api/accounts/{account}/segments/{segment_id}", {
            params: { path: { account: account.value, segment_id: own?.id ?? 0 } },
            body,
          }),
        ),
  );
  if (!done) return;
  tell(`“${name.value}” is kept.`);
  editing.value = undefined;
  void touched("/segments", "/names");
}
async function drop(segment: Schemas["SegmentOut"]) {
  const again = { name: segment.name, condition: segment.condition };
  const done = await act(() =>
    ok(
      api.DELETE("/api/accounts/{account}/segments/{segment_id}", { params: { path: { account: account.value, segment_id: segment.id } } }),
    ),
  );
  void touched("/segments", "/names");
  if (!done) return;
  tell(`“${segment.name}” is gone; its people are where they were.`, async () => {
    await ok(api.POST("/api/accounts/{account}/segments", { params: { path: { account: account.value } }, body: again }));
    void touched("/segments", "/names");
  });
}
const enrolling = ref<Schemas["SegmentOut"]>();
const COLUMNS: Column[] = [
  { key: "segment", label: "Segment", heads: true, class: "serif" },
  { key: "everybody_for_whom", label: "Everybody for whom", class: "serif words" },
  { key: "people_now", label: "People now", num: true },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <div class="page">
    <PageHead title="Segments" about="a condition with a name; who is in it is found anew each time"
      ><BButton v-if="may('people') && !editing" variant="primary" @click="open('new')">New segment</BButton></PageHead
    >
    <ReadState :of="segmentsRead" what="The segments">
      <form v-if="editing" class="edit" @submit.prevent="keep">
        <div class="row">
          <FormRow label="Name"><BFormInput v-model.trim="name" required maxlength="120" autofocus /></FormRow>
          <p class="count" :class="{ stale: counting }" :aria-busy="counting" role="status">
            <strong v-if="found && !incomplete"
              >{{ many(found.count, "person", "people") }}{{ ofDeals && deals ? `, ${many(deals.count, "deal")}` : "" }}</strong
            ><span v-else class="gorse"><StateMark is="waits" /> {{ incomplete || "counting…" }}</span>
          </p>
        </div>
        <p class="small soft whom">Everybody for whom</p>
        <ConditionWords v-model="where" />
        <p v-if="found?.rows.length && !incomplete" class="small soft who">
          {{
            found.rows
              .slice(0, 8)
              .map((row) => row.name)
              .join(", ")
          }}<template v-if="found.count > 8"> and {{ found.count - 8 }} more</template>
        </p>
        <div class="actions">
          <BButton variant="primary" type="submit" :disabled="pending || !name || !!incomplete">Keep the segment</BButton
          ><BButton variant="link" @click="editing = undefined">Leave as it was</BButton>
        </div>
      </form>
      <DataTable v-if="segments?.length" caption="Segments" :rows="segments" :columns="COLUMNS">
        <template #segment="{ item: one }"
          ><RouterLink :to="{ name: 'people', query: { segment: one.name } }">{{ one.name }}</RouterLink></template
        >
        <template #everybody_for_whom="{ item: one }">{{ one.words }}</template>
        <template #people_now="{ item: one }">{{ number(one.count) }}</template>
        <template #acts="{ item: one }"
          ><template v-if="may('people')"
            ><RouterLink v-if="one.of_deals" :to="{ name: 'deals-list', query: { segment: one.name } }">Its deals</RouterLink>
            <BButton variant="link" @click="open(one)">Change</BButton> <BButton variant="link" @click="enrolling = one">Enrol…</BButton>
            <BButton variant="link" @click="drop(one)">Drop</BButton></template
          ></template
        >
      </DataTable>
      <EmptyState v-else-if="segments && !editing"
        >No segment yet. One could be “Keen, not booked”: has the tag “taster day”, score is at least 20, has no appointment to
        come.</EmptyState
      >
    </ReadState>
    <EnrolAsk
      v-if="enrolling"
      :who="chosen({ segment: enrolling.name })"
      :count="enrolling.count"
      @close="enrolling = undefined"
      @done="
        tell($event);
        enrolling = undefined;
        touched('/segments', '/names');
      " />
  </div>
</template>

<style scoped>
.edit {
  border-top: 1px solid var(--ink);
  border-bottom: 1px solid var(--ink);
  padding: 14px 0 16px;
  margin: 14px 0 20px;
}
.edit label input {
  width: 20rem;
}
.count {
  margin: 0 0 6px;
  align-self: end;
  font-size: 17px;
}
.who {
  margin-top: 12px;
}
.whom {
  margin: 12px 0 6px;
}
:deep(.words) {
  max-width: 38rem;
}
</style>
