<script setup lang="ts">
/** What came of one wording: shares only from 20 on, and of what they are. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { many, outOf } from "@/ui/words";

const props = defineProps<{ count?: Schemas["WordingCount"] }>();
const said = computed(() => {
  const one = props.count;
  if (!one?.sent) return "not sent yet";
  const clicked = one.with_link ? [`clicked by ${outOf(one.clicked, one.with_link)}`] : [];
  return [many(one.sent, "time", "times"), ...clicked, `answered by ${outOf(one.answered, one.sent)}`].join(", ");
});
</script>

<template>
  <span class="soft"
    >{{ said }}<template v-if="count?.against_first">. Against the first: {{ count.against_first }}</template></span
  >
</template>
