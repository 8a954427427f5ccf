<script setup lang="ts">
/** The versions of a workflow: what each changed, two of them side by side, and going back to one. */
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useSubject } from "@/router/titles";
import { useMay, useRead } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import StateMark from "@/ui/StateMark.vue";
import EmptyState from "@/ui/EmptyState.vue";

const account = useAccount();
const route = useRoute();
const id = computed(() => Number(route.params.workflow));
const path = () => ({ account: account.value, workflow_id: id.value });
const { data: workflow, ...workflowRead } = useRead("/workflows/{workflow_id}", () => ({ path: path() }));
useSubject(() => workflow.value && `${workflow.value.document.name}: versions`);
const isMessage = computed(() => workflow.value?.sort === "message");
const back = computed(() =>
  isMessage.value ? { name: "message", params: { message: id.value } } : { name: "workflow", params: { workflow: id.value } },
);
const { data: versions, ...versionsRead } = useRead("/workflows/{workflow_id}/versions", () => ({ path: path() }), { staleTime: 0 });
const left = ref<number>();
const right = ref<number>(0); // 0: the draft
watch(versions, (rows) => (left.value ??= rows?.[0]?.number), { immediate: true });
const { data: beside } = useRead(
  "/workflows/{workflow_id}/versions/{number}/beside",
  () => ({ path: { ...path(), number: left.value ?? 1 }, query: right.value ? { other: right.value } : {} }),
  { enabled: () => left.value !== undefined, staleTime: 0 },
);
const MARKS = { same: ["", ""], changed: ["≠", "gorse"], new: ["+", "kelp"], gone: ["−", "rust"] } as const;
const mayDo = useMay();
const may = computed(() => mayDo("workflows"));
const COLUMNS: Column[] = [
  { key: "version", label: "Version" },
  { key: "published", label: "Published", class: "soft" },
  { key: "inside", label: "Inside", num: true },
  { key: "what_it_changed", label: "What it changed", class: "serif" },
  { key: "acts", label: "What to do", hidesLabel: true },
];
</script>

<template>
  <div class="page">
    <p class="small">
      <RouterLink :to="back">{{ isMessage ? "Back to the message" : "Back to the script" }}</RouterLink>
    </p>
    <h1>{{ workflow ? `${workflow.document.name}: versions` : "Versions" }}</h1>
    <ReadState :of="[workflowRead, versionsRead]" what="The versions" missing="There is no such workflow">
      <DataTable v-if="versions?.length" class="list" caption="Versions" :rows="versions" :columns="COLUMNS">
        <template #version="{ item: row }"
          ><strong>{{ row.number }}</strong>
          <small v-if="row.current" class="kelp"><StateMark is="runs" /> whoever comes in gets this one</small></template
        >
        <template #published="{ item: row }"
          >{{ row.published }}<br /><small>{{ row.by }}</small></template
        >
        <template #inside="{ item: row }">{{ row.inside }}</template>
        <template #what_it_changed="{ item: row }"
          ><div v-for="change in row.changes.slice(0, 4)" :key="change">{{ change }}</div>
          <small v-if="row.changes.length > 4" class="soft">and {{ row.changes.length - 4 }} more</small
          ><span v-if="!row.changes.length" class="soft">the first</span></template
        >
        <template #acts="{ item: row }"
          ><BButton
            variant="link"
            @click="
              left = row.number;
              right = 0;
            "
            >Compare</BButton
          >
          <RouterLink v-if="may" :to="{ name: 'workflow', params: { workflow: id }, query: { take: row.number } }"
            >Make it the draft again</RouterLink
          ></template
        >
      </DataTable>
      <EmptyState v-else-if="versions">It was not published yet. Each time it is, what ran until then is kept here.</EmptyState>
      <section v-if="versions?.length && beside" class="beside" aria-label="Side by side">
        <div class="row">
          <FormRow label="On the left"
            ><BFormSelect v-model="left"
              ><option v-for="row in versions" :key="row.number" :value="row.number">Version {{ row.number }}</option></BFormSelect
            ></FormRow
          >
          <FormRow label="On the right"
            ><BFormSelect v-model="right"
              ><option :value="0">The draft</option>
              <option v-for="row in versions" :key="row.number" :value="row.number">Version {{ row.number }}</option></BFormSelect
            ></FormRow
          >
          <span class="soft">{{ beside.sentences.length ? many(beside.sentences.length, "difference") : "No difference." }}</span>
        </div>
        <ul v-if="beside.sentences.length" class="serif">
          <li v-for="one in beside.sentences" :key="one">{{ one }}</li>
        </ul>
        <table>
          <colgroup>
            <col class="narrow" />
            <col />
            <col />
          </colgroup>
          <thead class="sr">
            <tr>
              <th>State</th>
              <th>Left</th>
              <th>Right</th>
            </tr>
          </thead>
          <tbody v-for="(row, index) in beside.rows" :key="row.id + index">
            <tr :class="row.state">
              <td class="mark" :class="MARKS[row.state][1]">
                <span role="img" :aria-label="row.state">{{ MARKS[row.state][0] }}</span>
              </td>
              <td class="serif" :class="{ head: row.is_lane }" :style="{ paddingLeft: `${row.depth * 18}px` }">{{ row.old }}</td>
              <td class="serif" :class="{ head: row.is_lane }" :style="{ paddingLeft: `${row.depth * 18}px` }">{{ row.new }}</td>
            </tr>
            <tr v-for="part in row.parts.filter((one) => one.old.length + one.new.length < 2_000)" :key="part.label" class="part">
              <td></td>
              <td>
                <small class="soft">{{ part.label }}</small> {{ part.old || "nothing" }}
              </td>
              <td>
                <small class="soft">{{ part.label }}</small> {{ part.new || "nothing" }}
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </ReadState>
  </div>
</template>

<style scoped>
.list {
  margin: 12px 0 26px;
}
.beside .row {
  align-items: end;
  margin-bottom: 10px;
}
.beside table {
  table-layout: fixed;
}
.narrow {
  width: 34px;
}
.part td {
  border-bottom-style: dotted;
  padding: 3px 14px 5px 0;
  white-space: pre-line;
  font-size: 14.5px;
}
.mark {
  text-align: center;
  font-weight: 600;
}
td.serif {
  font-size: 16px;
}
td.head {
  font-style: italic;
  font-weight: 600;
}
tr.same td {
  color: var(--soft);
}
tr.changed td,
tr.new td,
tr.gone td {
  background: var(--mist);
}
ul {
  font-size: 16px;
  padding-left: 20px;
}
</style>
