<script setup lang="ts">
/** Where two changed the same of a draft: whose words shall stand. Else what somebody else did meanwhile. */
import { several } from "@/ui/words";
import type { useDraft } from "./useDraft";

const props = defineProps<{ draft: ReturnType<typeof useDraft> }>();
const { state, clashes, notice } = props.draft;
</script>

<template>
  <p v-if="state === 'conflict'" class="conflict" role="alert">
    You and somebody else both changed {{ several(clashes.map((one) => one.what)) }}. Nothing was overwritten, and what only one of you
    changed is kept. Whose shall stand? The other’s stays in undo.
    <span v-for="one in clashes" :key="one.what + one.ours" class="sides"
      ><span class="soft">Theirs:</span> {{ one.theirs }} <span class="soft">Mine:</span> {{ one.ours }}</span
    >
    <BButton variant="link" @click.stop="draft.settle('theirs')">Theirs</BButton>
    <BButton variant="link" @click.stop="draft.settle('ours')">Mine</BButton>
  </p>
  <p v-else-if="notice" class="notice soft" role="status">{{ notice }}</p>
</template>

<style scoped>
.sides {
  display: block;
  font-family: var(--serif);
}
.notice {
  margin: 4px 0;
}
.conflict {
  border-left: 3px solid var(--rust);
  padding-left: 12px;
}
</style>
