<script setup lang="ts">
/** Where things are used: tags, forms, fields, messages and all else that workflows name. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "@/practice/session";
import { many } from "@/ui/words";

const account = useAccount();
const q = ref("");
const kind = ref("");
const { data } = useQuery({ queryKey: ["uses", account], queryFn: () => ok(api.GET("/api/accounts/{account}/uses", { params: { path: { account: account.value } } })) });
const kinds = computed(() => [...new Set(data.value?.map((one) => one.kind))]);
type Use = Schemas["Use"];
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
</script>

<template>
  <div class="page">
    <p class="small"><RouterLink :to="`/${account}/workflows`">Back to the workflows</RouterLink></p>
    <h1>Where things are used</h1>
    <div class="row filter">
      <input v-model="q" type="search" aria-label="Search by name" placeholder="search by name" size="28" autofocus />
      <label class="inline">of kind <select v-model="kind"><option value="">any</option><option v-for="one in kinds" :key="one" :value="one">{{ one }}</option></select></label>
      <span class="soft">{{ many(found.length, "name") }}</span>
    </div>
    <table v-if="found.length">
      <thead><tr><th>What</th><th>Workflow</th><th>Where</th></tr></thead>
      <tbody v-for="group in found" :key="group[0]!.kind + group[0]!.name">
        <tr v-for="(use, index) in group" :key="use.workflow_id + use.step + use.sets">
          <td><template v-if="!index"><small class="soft">{{ use.kind }}</small> <strong class="serif">{{ use.name }}</strong></template></td>
          <td><RouterLink :to="`/${account}/workflows/${use.workflow_id}${use.step ? `?line=${use.step}` : ''}`">{{ use.workflow }}</RouterLink></td>
          <td class="serif">{{ use.sentence }} <small v-if="use.sets" class="soft">sets it</small></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="empty">Nothing of that name is used in a workflow.</p>
  </div>
</template>

<style scoped>
.filter { margin: 10px 0 14px; align-items: center; }
.inline { display: inline-flex; gap: 8px; align-items: center; }
td.serif { font-size: 16px; }
</style>
