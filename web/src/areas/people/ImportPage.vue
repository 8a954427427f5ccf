<script setup lang="ts">
/** Files of people: one is read, its columns matched, looked at, brought in with its consent stated; what was not taken
 * comes back corrected; the whole can be stopped, go on, be taken back. */
import { computed, ref, watch } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useMay, useRead, useTouched } from "@/queries/account";
import { useAccount, useAccountDetails } from "@/queries/session";
import Ask from "@/ui/Ask.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import ReadState from "@/ui/ReadState.vue";
import StateMark from "@/ui/StateMark.vue";
import { usePending } from "@/ui/usePending";
import { many } from "@/ui/words";
import ImportChoose from "./bringing_in/ImportChoose.vue";
import ImportMatch from "./bringing_in/ImportMatch.vue";
import ImportProgress from "./bringing_in/ImportProgress.vue";
import { STATES } from "./bringing_in/states";

type Import = Schemas["ImportOut"];
const account = useAccount();
const touched = useTouched();
const { data: details, ...detailsRead } = useAccountDetails();
const mayDo = useMay();
const may = computed(() => mayDo("import"));
const { act } = usePending();
const { data: earlier, ...earlierRead } = useRead("/imports", undefined, {
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === "running" || one.state === "taking_back") ? 700 : false),
});
const shown = ref<Import>();
/** Bumped by each reading of the same file, which is then matched anew. */
const times = ref(0);
function take(imported: Import) {
  shown.value = imported;
  times.value += 1;
}
const running = computed(
  () => earlier.value?.find((one) => one.id === shown.value?.id) ?? (shown.value?.state === "read" ? undefined : shown.value),
);
watch(
  () => running.value?.state,
  (now, before) => {
    if (before === "running" && now !== "running") void touched("everything");
  },
);
async function handle(one: Import, did: "stop" | "go-on" | "take-back") {
  const path = { account: account.value, import_id: one.id, act: did };
  await act(() => ok(api.POST("/api/accounts/{account}/imports/{import_id}/do/{act}", { params: { path } })));
  void touched("/imports");
}
const takingBack = ref<Import>();
const EARLIER_FILES_COLUMNS: Column[] = [
  { key: "file", label: "File", heads: true, class: "serif" },
  { key: "when", label: "When" },
  { key: "by", label: "By" },
  { key: "new", label: "New", num: true },
  { key: "changed", label: "Changed", num: true },
  { key: "not_taken", label: "Not taken", num: true },
  { key: "state", label: "State", hidesLabel: true },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small" },
];
</script>

<template>
  <div class="page">
    <h1>{{ shown?.state === "read" ? shown.file_name : "Bring in a file" }}</h1>

    <EmptyState v-if="details && !may"
      >Managers and consultants bring files in here. You can add people one by one, or by
      <RouterLink :to="{ name: 'quick' }">quick entry</RouterLink>.</EmptyState
    >
    <ReadState v-else :of="[detailsRead, earlierRead]" what="The files brought in">
      <ImportMatch
        v-if="shown?.state === 'read'"
        :key="times"
        :imported="shown"
        @read="take"
        @started="shown = $event"
        @another="shown = undefined" />
      <template v-else>
        <ImportChoose @read="take" />
        <ImportProgress v-if="running" :work="running" @handle="handle(running, $event)" />
        <template v-if="earlier?.length">
          <h2>Earlier files</h2>
          <DataTable caption="Earlier files" :rows="earlier" :columns="EARLIER_FILES_COLUMNS">
            <template #file="{ item: one }"
              ><BButton variant="link" @click="shown = one">{{ one.file_name }}</BButton></template
            >
            <template #when="{ item: one }">{{ one.at }}</template>
            <template #by="{ item: one }">{{ one.by }}</template>
            <template #new="{ item: one }">{{ one.added }}</template>
            <template #changed="{ item: one }">{{ one.changed }}</template>
            <template #not_taken="{ item: one }">{{ one.failed }}</template>
            <template #state="{ item: one }"
              ><span :class="one.state === 'done' ? 'kelp' : one.state === 'taken_back' ? 'soft' : 'gorse'"
                ><StateMark is="done" v-if="one.state === 'done'" /> {{ STATES[one.state] }}</span
              ></template
            >
            <template #acts="{ item: one }"
              ><BButton v-if="one.state === 'done' || one.state === 'stopped'" variant="link" @click="takingBack = one"
                >Take back…</BButton
              ></template
            >
          </DataTable>
        </template>
      </template>
    </ReadState>
    <Ask v-if="takingBack" v-slot="{ close }" :title="`Take “${takingBack.file_name}” back`" @close="takingBack = undefined">
      <p>
        {{ many(takingBack.added, "person", "people") }} it added would be gone, and {{ many(takingBack.changed, "person", "people") }} it
        changed would be as before. Whoever something has happened to since, stays.
      </p>
      <div class="actions">
        <BButton
          variant="primary"
          @click="
            handle(takingBack, 'take-back');
            shown = takingBack;
            close();
          "
          >Take it back</BButton
        ><BButton variant="link" @click="close">Not now</BButton>
      </div>
    </Ask>
  </div>
</template>

<style scoped>
h2 {
  margin: 22px 0 6px;
}
</style>
