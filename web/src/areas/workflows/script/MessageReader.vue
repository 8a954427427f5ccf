<script setup lang="ts">
/** A message in a few words, as a contact would read it. */
import type { Schemas } from "@/api/client";
import ContactPick from "@/shared/ContactPick.vue";

defineProps<{ preview?: Schemas["PreviewOut"]; phone: boolean }>();
const reader = defineModel<number | undefined>();
defineEmits<{ wide: [] }>();
</script>

<template>
  <div class="reader" :class="{ phone }">
    <small class="soft reads"
      >as <ContactPick v-model="reader" :name="preview?.contact" /> would read it
      <BButton variant="link" @click="$emit('wide')">wide</BButton></small
    >
    <p v-if="preview?.fault" class="fault">{{ preview.fault }}</p>
    <template v-else-if="preview"
      ><strong v-if="preview.subject">{{ preview.subject }}</strong>
      <p>{{ preview.body || "No words yet." }}</p>
      <p v-if="preview.below" class="soft below">{{ preview.below }}</p></template
    >
  </div>
</template>

<style scoped>
.reader {
  border: 1px solid var(--rule);
  background: var(--chalk);
  padding: 10px 14px;
  margin-top: 14px;
  font-size: 15px;
  overflow-wrap: anywhere;
}
.reads {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.reads > button {
  margin-left: auto;
}
.reader strong {
  display: block;
  margin-top: 4px;
}
.reader p {
  white-space: pre-line;
  margin: 4px 0 0;
}
.reader .below {
  margin-top: 2px;
}
</style>
