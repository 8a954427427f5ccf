<script setup lang="ts">
/** Where things are used: tags, forms, fields, messages and all else that workflows, segments, forms, rules and sources of leads name. */
import { computed, ref } from "vue";

import { leadsTo, PLACES, useUses, type Use } from "@/people/useUses";
import { useAccount } from "@/practice/session";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";

const account = useAccount();
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
</script>

<template>
  <div class="page">
    <p class="small"><RouterLink :to="`/${account}/workflows`">Back to the workflows</RouterLink></p>
    <h1>Where things are used</h1>
    <ReadState :of="reading" what="Where things are used">
    <div class="row filter">
      <input v-model="q" type="search" aria-label="Search by name" placeholder="search by name" size="28" autofocus />
      <label class="inline">of kind <select v-model="kind"><option value="">any</option><option v-for="one in kinds" :key="one" :value="one">{{ one }}</option></select></label>
      <span class="soft">{{ many(found.length, "name") }}</span>
    </div>
    <table v-if="found.length">
      <thead><tr><th>What</th><th>Used in</th><th>Where</th></tr></thead>
      <tbody v-for="group in found" :key="group[0]!.kind + group[0]!.name">
        <tr v-for="(use, index) in group" :key="use.place + use.id + use.step + use.sentence + use.sets">
          <td><template v-if="!index"><small class="soft">{{ use.kind }}</small> <strong class="serif">{{ use.name }}</strong></template></td>
          <td><small v-if="PLACES[use.place]" class="soft">{{ PLACES[use.place] }}</small><RouterLink v-if="leadsTo(account, use)" :to="leadsTo(account, use)">{{ use.title }}</RouterLink><template v-else>{{ use.title }}</template></td>
          <td class="serif">{{ use.sentence }} <small v-if="use.sets" class="soft">sets it</small></td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="data" class="empty">Nothing of that name is used.</p>
    </ReadState>
  </div>
</template>

<style scoped>
.filter { margin: 10px 0 14px; align-items: center; }
.inline { display: inline-flex; gap: 8px; align-items: center; }
td.serif { font-size: 16px; }
</style>
