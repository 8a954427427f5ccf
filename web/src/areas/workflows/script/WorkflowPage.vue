<script setup lang="ts">
/** Loads a workflow and what the page needs to draw it; the page itself is ScriptPage. */
import { computed, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import ReadState from "@/ui/ReadState.vue";
import ScriptPage from "./ScriptPage.vue";

const route = useRoute();
const id = computed(() => Number(route.params.workflow));
const { data: details, ...detailsRead } = useAccountDetails();
const { data: stored, ...storedRead } = useRead("/workflows/{workflow_id}", () => ({ path: { workflow_id: id.value } }), {
  apart: "draft",
  gcTime: 0,
  staleTime: Infinity,
  refetchOnWindowFocus: false,
});
const router = useRouter();
watch(stored, (now) => {
  if (now?.sort === "message") void router.replace({ name: "message", params: { message: now.id }, query: route.query });
});
const { data: catalogue, ...catalogueRead } = useRead("/catalogue", undefined, { staleTime: Infinity });
</script>

<template>
  <ReadState :of="[storedRead, catalogueRead, detailsRead]" what="This workflow" missing="There is no such workflow" page>
    <ScriptPage
      v-if="stored && stored.sort !== 'message' && catalogue && details"
      :key="id"
      :stored="stored"
      :catalogue="catalogue"
      :details="details" />
  </ReadState>
</template>
