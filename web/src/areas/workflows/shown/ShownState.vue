<script setup lang="ts">
/** How it stands with the client, in a line: since when they have it, what waits for an answer, that they agreed. */
import type { Schemas } from "@/api/client";
import StateMark from "@/ui/StateMark.vue";

defineProps<{ shown: Schemas["Standing"] }>();
</script>

<template>
  <span v-if="shown.remark_by" class="gorse"><StateMark is="look" /> Remark by {{ shown.remark_by }}, not answered</span>
  <span v-else-if="shown.agreed_by" :class="shown.is_current ? 'kelp' : 'soft'"
    ><StateMark :is="shown.is_current ? 'done' : 'look'" /> {{ shown.agreed_by }} agreed, {{ shown.local_agreed
    }}{{ shown.is_current ? "" : "; it says something else now" }}</span
  >
  <span v-else class="soft">With {{ shown.client }} since {{ shown.local_shown }}</span>
</template>
