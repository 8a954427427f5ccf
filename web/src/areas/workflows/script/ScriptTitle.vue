<script setup lang="ts">
/** What the workflow is called, how it stands, and publishing it; whose words shall stand where two changed the same. */
import { computed } from "vue";

import { many, moment, several } from "@/ui/words";
import { useScript } from "./script";
import type { useDraft } from "./useDraft";

const props = defineProps<{
  draft: ReturnType<typeof useDraft>;
  version: number | null;
  open: boolean;
  inside: number;
  localNow: string;
}>();
const emit = defineEmits<{ publish: [] }>();
const { doc, mayWrite } = useScript();
const { state, changes, clashes, notice } = props.draft;
const today = computed(() => `${moment(props.localNow).split(",")[0]}, `);
const kept = computed(
  () =>
    ({
      kept: `kept ${props.draft.keptAt.value.replace(today.value, "")}`, // the day, too, when it was not today
      changed: "keeping…",
      keeping: "keeping…",
      failed: `not kept: ${props.draft.fault.value}`,
      conflict: "not kept: you and somebody else changed the same",
    })[state.value],
);
const published = computed(() =>
  props.version
    ? `Version ${props.version} ${props.open ? "runs" : "is closed to newcomers"}, ${many(props.inside, "person", "people")} inside`
    : "Not published yet",
);
function rename(event: Event) {
  const name = event.target instanceof HTMLInputElement ? event.target.value.trim() : "";
  if (name) props.draft.change((draftDoc) => void (draftDoc.name = name), "name");
}
</script>

<template>
  <div class="title">
    <input
      class="serif"
      :value="doc.name"
      aria-label="Name of the workflow"
      maxlength="120"
      :disabled="!mayWrite"
      :size="Math.max(12, doc.name.length)"
      @click.stop
      @change="rename" />
    <span class="soft state" role="status">
      {{ published }}
      <template v-if="changes.length"> · {{ many(changes.length, "change") }} not yet published</template>
      · <span :class="{ rust: state === 'failed' || state === 'conflict' }">{{ kept }}</span>
    </span>
    <span class="grow" />
    <BButton
      v-if="mayWrite"
      variant="primary"
      :disabled="version !== null && !changes.length && state === 'kept'"
      @click.stop="emit('publish')"
      >Publish…</BButton
    >
  </div>
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
.title {
  display: flex;
  align-items: baseline;
  gap: 12px;
  flex-wrap: wrap;
}
.title input {
  font: 600 27px var(--serif);
  letter-spacing: -0.2px;
  border: 0;
  background: transparent;
  padding: 0;
  max-width: 100%;
  field-sizing: content;
}
.title input:focus {
  background: var(--paper);
}
.state {
  font-size: 14px;
}
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
