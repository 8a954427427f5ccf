<script setup lang="ts">
/** Loads a workflow and what the page needs to draw it; the page itself is ScriptPage. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";
import { useRoute } from "vue-router";

import { api, ok } from "@/api/client";
import { useAccount, useAccountDetails } from "@/practice/session";
import ReadState from "@/ui/ReadState.vue";
import ScriptPage from "./ScriptPage.vue";

const account = useAccount();
const route = useRoute();
const id = computed(() => Number(route.params.workflow));
const { data: details, ...detailsRead } = useAccountDetails();
const { data: stored, ...storedRead } = useQuery({
  queryKey: ["workflow", account, id],
  queryFn: () => ok(api.GET("/api/accounts/{account}/workflows/{workflow_id}", { params: { path: { account: account.value, workflow_id: id.value } } })),
  gcTime: 0,
  staleTime: Infinity,
  refetchOnWindowFocus: false,
});
const { data: catalogue, ...catalogueRead } = useQuery({
  queryKey: ["catalogue", account],
  queryFn: () => ok(api.GET("/api/accounts/{account}/catalogue", { params: { path: { account: account.value } } })),
  staleTime: Infinity,
});
</script>

<template>
  <ReadState :of="[storedRead, catalogueRead, detailsRead]" what="This workflow" missing="There is no such workflow" page>
    <ScriptPage v-if="stored && catalogue && details" :key="id" :stored="stored" :catalogue="catalogue" :details="details" />
  </ReadState>
</template>
