<script setup lang="ts">
/** What changed in the account: by whom, when, what it was and what it is. */
import { refDebounced } from "@vueuse/core";
import { ref, watch } from "vue";

import { useRead } from "@/queries/account";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";
import FormRow from "@/ui/FormRow.vue";
import PageHead from "@/ui/PageHead.vue";
import ReadState from "@/ui/ReadState.vue";

const typed = ref("");
const q = refDebounced(typed, 200);
const area = ref("");
const page = ref(1);
watch([q, area], () => (page.value = 1));
const { data, ...reading } = useRead("/set-up/changes", () => ({ query: { q: q.value, area: area.value, page: page.value } }), {
  live: true,
  placeholderData: (before) => before,
});
const COLUMNS: Column[] = [
  { key: "at", label: "When", class: "soft" },
  { key: "by", label: "Who" },
  { key: "area", label: "Where", class: "soft" },
  { key: "what", label: "What", heads: true, class: "serif" },
  { key: "change", label: "From and to", class: "serif words" },
];
</script>

<template>
  <div class="page">
    <PageHead title="What changed" about="in Set-up, publishing, exports and erasures; kept as long as the account" />
    <ReadState :of="reading" what="What changed">
      <div class="row tools">
        <FormRow label="With the words"><BFormInput v-model.trim="typed" type="search" maxlength="80" /></FormRow>
        <FormRow label="Where"
          ><BFormSelect v-model="area"
            ><option value="">everywhere</option>
            <option v-for="(words, name) in data?.areas" :key="name" :value="name">{{ words }}</option></BFormSelect
          ></FormRow
        >
      </div>
      <DataTable v-if="data?.rows.length" caption="What changed" :rows="data.rows" :columns="COLUMNS">
        <template #by="{ item }">{{ item.by || "by itself" }}</template>
        <template #change="{ item }"
          ><span v-if="item.old" class="was">{{ item.old }}</span
          ><span v-if="item.old && item.new"> → </span><span>{{ item.new || (item.old ? "nothing" : "") }}</span></template
        >
      </DataTable>
      <EmptyState v-else-if="data">{{
        typed || area
          ? "Nothing that changed fits that."
          : "Nothing has changed yet. Whatever somebody sets, publishes or takes out stands here."
      }}</EmptyState>
      <p v-if="data && (data.more || page > 1)" class="row">
        <BButton variant="outline-primary" :disabled="page === 1" @click="page--">Newer</BButton
        ><BButton variant="outline-primary" :disabled="!data.more" @click="page++">Older</BButton>
      </p>
    </ReadState>
  </div>
</template>

<style scoped>
.tools {
  align-items: end;
  padding: 10px 0;
}
.tools input {
  width: 16rem;
}
.was {
  color: var(--soft);
  text-decoration: line-through;
}
</style>
