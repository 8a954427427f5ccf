<script setup lang="ts">
/** What the workflow is called, how it stands, and publishing it; whose words shall stand where two changed the same. */
import { computed } from "vue";

import { many, moment } from "@/ui/words";
import DraftClash from "./DraftClash.vue";
import { useScript } from "./script";
import type { useDraft } from "./useDraft";
import { useKept } from "./useKept";

const props = defineProps<{
  draft: ReturnType<typeof useDraft>;
  version: number | null;
  open: boolean;
  inside: number;
  localNow: string;
}>();
const emit = defineEmits<{ publish: [] }>();
const { doc, mayWrite } = useScript();
const { state, changes } = props.draft;
const today = computed(() => `${moment(props.localNow).split(",")[0]}, `);
const kept = useKept(props.draft, () => today.value); // the day, too, when it was not today
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
  <DraftClash :draft="draft" />
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
</style>
