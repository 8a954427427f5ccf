<script setup lang="ts">
/** The places one is signed in at, each ended by a press. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import { came, way } from "@/api/signingIn";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { browserOf, hereAt } from "@/ui/words";

interface Place {
  id: number;
  ip: string;
  user_agent: string;
  is_current: boolean;
  created_at: number;
  last_seen_at?: number;
}
const PATH = "/_allauth/browser/v1/auth/sessions";
const { data: places, refetch } = useQuery({ queryKey: ["signed-in-at"], queryFn: async () => (await came<Place[]>(way.GET(PATH))).data });
const rows = computed(() => [...(places.value ?? [])].sort((a, b) => Number(b.is_current) - Number(a.is_current) || b.id - a.id));
const others = computed(() => rows.value.filter((one) => !one.is_current));
const { pending, act } = usePending();
async function end(some: Place[]) {
  const sessions = some.map((one) => one.id);
  if (await act(() => came(way.DELETE(PATH, { body: { sessions } }))))
    tell(some.length === 1 ? "Ended: whoever holds it is signed out." : "Ended: you are signed in here alone.");
  await refetch();
}
const at = (seconds: number) => hereAt(new Date(seconds * 1_000));
const COLUMNS: Column[] = [
  { key: "with", label: "With", heads: true, class: "serif" },
  { key: "ip", label: "From" },
  { key: "since", label: "Since" },
  { key: "seen", label: "Last seen" },
  { key: "acts", label: "What to do", hidesLabel: true, class: "small acts" },
];
</script>

<template>
  <DataTable v-if="rows.length" caption="Where I am signed in" :rows="rows" :columns="COLUMNS">
    <template #with="{ item }">{{ browserOf(item.user_agent) }}</template>
    <template #since="{ item }">{{ at(item.created_at) }}</template>
    <template #seen="{ item }">{{ item.is_current ? "here, now" : item.last_seen_at ? at(item.last_seen_at) : "" }}</template>
    <template #acts="{ item }"
      ><BButton v-if="!item.is_current" variant="link" :disabled="pending" @click="end([item])">End it</BButton></template
    >
  </DataTable>
  <p v-if="others.length > 1"><BButton variant="link" :disabled="pending" @click="end(others)">End all others</BButton></p>
</template>
