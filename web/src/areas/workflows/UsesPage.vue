<script setup lang="ts">
/** Where things are used: tags, forms, fields, messages and all else that workflows, segments, forms, rules and sources of leads name. */
import { computed, ref } from "vue";

import { leadsTo, PLACES, useUses, type Use } from "@/shared/useUses";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import EmptyState from "@/ui/EmptyState.vue";

const q = ref("");
const kind = ref("");
const { data, reading } = useUses();
const kinds = computed(() => [...new Set(data.value?.map((one) => one.kind))]);
/** By what is used, each with its places. */
const found = computed(() => {
  const groups = new Map<string, Use[]>();
  for (const one of data.value ?? []) {
    if (kind.value && one.kind !== kind.value) continue;
    if (!one.name.toLowerCase().includes(q.value.toLowerCase())) continue;
    const key = `${one.kind} ${one.name}`;
    groups.set(key, [...(groups.get(key) ?? []), one]);
  }
  return [...groups.values()];
});
const rows = computed(() => found.value.flatMap((group) => group.map((use, index) => ({ use, first: !index }))));
const COLUMNS: Column[] = [
  { key: "what", label: "What", heads: true },
  { key: "used_in", label: "Used in" },
  { key: "where", label: "Where", class: "serif" },
];
</script>

<template>
  <div class="page">
    <p class="small"><RouterLink :to="{ name: 'workflows' }">Back to the workflows</RouterLink></p>
    <h1>Where things are used</h1>
    <ReadState :of="reading" what="Where things are used">
      <div class="row filter">
        <BFormInput v-model="q" type="search" aria-label="Search by name" placeholder="search by name" autofocus />
        <label class="inline"
          >of kind
          <BFormSelect v-model="kind"
            ><option value="">any</option>
            <option v-for="one in kinds" :key="one" :value="one">{{ one }}</option></BFormSelect
          ></label
        >
        <span class="soft">{{ many(found.length, "name") }}</span>
      </div>
      <DataTable v-if="rows.length" caption="Where things are used" :rows="rows" :columns="COLUMNS">
        <template #what="{ item }"
          ><template v-if="item.first"
            ><small class="soft">{{ item.use.kind }}</small> <strong class="serif">{{ item.use.name }}</strong></template
          ></template
        >
        <template #used_in="{ item: { use } }"
          ><small v-if="PLACES[use.place]" class="soft">{{ PLACES[use.place] }}</small
          ><RouterLink v-if="leadsTo(use)" :to="leadsTo(use)!">{{ use.title }}</RouterLink
          ><template v-else>{{ use.title }}</template></template
        >
        <template #where="{ item: { use } }">{{ use.sentence }} <small v-if="use.sets" class="soft">sets it</small></template>
      </DataTable>
      <EmptyState v-else-if="data">Nothing of that name is used.</EmptyState>
    </ReadState>
  </div>
</template>

<style scoped>
.filter {
  margin: 10px 0 14px;
  align-items: center;
}
.inline {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
:deep(td).serif {
  font-size: 16px;
}
</style>
