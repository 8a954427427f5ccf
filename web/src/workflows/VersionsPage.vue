<script setup lang="ts">
/** The versions of a workflow: what each changed, two of them side by side, and going back to one. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";

const account = useAccount();
const route = useRoute();
const { data: details } = useAccountDetails();
const id = computed(() => Number(route.params.workflow));
const path = () => ({ account: account.value, workflow_id: id.value });
const { data: workflow, ...workflowRead } = useQuery({ queryKey: ["workflow", account, id, "name"], queryFn: () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: path() } })) });
const { data: versions, ...versionsRead } = useQuery({ queryKey: ["versions", account, id], queryFn: () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}/versions", { params: { path: path() } })), staleTime: 0 });
const left = ref<number>();
const right = ref<number>(0); // 0: the draft
watch(versions, (rows) => (left.value ??= rows?.[0]?.number), { immediate: true });
const { data: beside } = useQuery({
  queryKey: ["beside", account, id, left, right],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}/versions/{number}/beside", { params: { path: { ...path(), number: left.value ?? 1 }, query: right.value ? { other: right.value } : {} } })),
  enabled: () => left.value !== undefined,
  staleTime: 0,
});
const MARKS = { same: ["", ""], changed: ["≠", "gorse"], new: ["+", "kelp"], gone: ["−", "rust"] } as const;
const may = computed(() => details.value?.rights.includes("workflows") ?? false);
</script>

<template>
  <div class="page">
    <p class="small"><RouterLink :to="`/${account}/workflows/${id}`">Back to the script</RouterLink></p>
    <h1>{{ workflow ? `${workflow.document.name}: versions` : "Versions" }}</h1>
    <ReadState :of="[workflowRead, versionsRead]" what="The versions" missing="There is no such workflow">
    <table v-if="versions?.length" class="list">
      <thead><tr><th>Version</th><th>Published</th><th class="num">Inside</th><th>What it changed</th><th></th></tr></thead>
      <tbody>
        <tr v-for="row in versions" :key="row.number">
          <td><strong>{{ row.number }}</strong> <small v-if="row.current" class="kelp">● newcomers get this</small></td>
          <td class="soft">{{ row.published }}<br /><small>{{ row.by }}</small></td>
          <td class="num">{{ row.inside }}</td>
          <td class="serif"><div v-for="change in row.changes.slice(0, 4)" :key="change">{{ change }}</div><small v-if="row.changes.length > 4" class="soft">and {{ row.changes.length - 4 }} more</small><span v-if="!row.changes.length" class="soft">the first</span></td>
          <td><button class="link" @click="left = row.number; right = 0">Compare</button> <RouterLink v-if="may" :to="`/${account}/workflows/${id}?take=${row.number}`">Make it the draft again</RouterLink></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="versions" class="empty">It was not published yet. Each time it is, what ran until then is kept here.</p>
    <section v-if="versions?.length && beside" class="beside" aria-label="Side by side">
      <div class="row">
        <label><span>On the left</span><select v-model="left"><option v-for="row in versions" :key="row.number" :value="row.number">Version {{ row.number }}</option></select></label>
        <label><span>On the right</span><select v-model="right"><option :value="0">The draft</option><option v-for="row in versions" :key="row.number" :value="row.number">Version {{ row.number }}</option></select></label>
        <span class="soft">{{ beside.sentences.length ? many(beside.sentences.length, "difference") : "No difference." }}</span>
      </div>
      <ul v-if="beside.sentences.length" class="serif"><li v-for="one in beside.sentences" :key="one">{{ one }}</li></ul>
      <table>
        <colgroup><col class="narrow" /><col /><col /></colgroup>
        <thead class="sr"><tr><th>State</th><th>Left</th><th>Right</th></tr></thead>
        <tbody v-for="(row, index) in beside.rows" :key="row.id + index">
          <tr :class="row.state">
            <td class="mark" :class="MARKS[row.state][1]"><span role="img" :aria-label="row.state">{{ MARKS[row.state][0] }}</span></td>
            <td class="serif" :class="{ head: row.is_lane }" :style="{ paddingLeft: `${row.depth * 18}px` }">{{ row.old }}</td>
            <td class="serif" :class="{ head: row.is_lane }" :style="{ paddingLeft: `${row.depth * 18}px` }">{{ row.new }}</td>
          </tr>
          <tr v-for="part in row.parts.filter((one) => one.old.length + one.new.length < 2_000)" :key="part.label" class="part">
            <td></td><td><small class="soft">{{ part.label }}</small> {{ part.old || "nothing" }}</td><td><small class="soft">{{ part.label }}</small> {{ part.new || "nothing" }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    </ReadState>
  </div>
</template>

<style scoped>
.list { margin: 12px 0 26px; }
.beside .row { align-items: end; margin-bottom: 10px; }
.beside table { table-layout: fixed; }
.narrow { width: 34px; }
.part td { border-bottom-style: dotted; padding: 3px 14px 5px 0; white-space: pre-line; font-size: 14.5px; }
.mark { text-align: center; font-weight: 600; }
td.serif { font-size: 16px; }
td.head { font-style: italic; font-weight: 600; }
tr.same td { color: var(--soft); }
tr.changed td, tr.new td, tr.gone td { background: var(--mist); }
ul { font-size: 16px; padding-left: 20px; }
</style>
