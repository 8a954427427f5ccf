<script setup lang="ts">
/** Loads a message of the library and what is needed to write it; the page itself is MessageDesk. */
import { computed, ref } from "vue";
import { useRoute } from "vue-router";

import { useRead } from "@/queries/account";
import { useAccountDetails } from "@/queries/session";
import ReadState from "@/ui/ReadState.vue";
import MessageDesk from "./MessageDesk.vue";

const route = useRoute();
const id = computed(() => Number(route.params.message));
const { data: details, ...detailsRead } = useAccountDetails();
const { data: stored, ...storedRead } = useRead("/workflows/{workflow_id}", () => ({ path: { workflow_id: id.value } }), {
  apart: "draft",
  gcTime: 0,
  staleTime: Infinity,
  refetchOnWindowFocus: false,
});
const { data: row, ...rowRead } = useRead("/messages/{message_id}", () => ({ path: { message_id: id.value } }), { live: true });
const { data: catalogue, ...catalogueRead } = useRead("/catalogue", undefined, { staleTime: Infinity });
const begun = ref(0);
/** A name is given everywhere at once, so what is written begins anew from what is kept. */
async function named() {
  await Promise.all([storedRead.refetch(), rowRead.refetch()]);
  begun.value += 1;
}
</script>

<template>
  <ReadState :of="[storedRead, rowRead, catalogueRead, detailsRead]" what="This message" missing="There is no such message" page>
    <MessageDesk
      v-if="stored && row && catalogue && details"
      :key="`${id}-${begun}`"
      :stored="stored"
      :row="row"
      :catalogue="catalogue"
      :details="details"
      @named="named"
      @published="rowRead.refetch()" />
  </ReadState>
</template>
