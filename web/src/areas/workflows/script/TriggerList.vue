<script setup lang="ts">
/** What happens, or happens instead: triggers said one after the other, whose parts are edited in place; each can be taken out. */
import SentenceParts from "@/sentences/SentenceParts.vue";
import type { Values } from "@/sentences/written";
import { useScript } from "./script";

/** `takesOut`: what the button says that takes one out, by its number from 1. */
defineProps<{ triggers: readonly { kind: string }[]; open: boolean; takesOut: (number: number) => string }>();
const emit = defineEmits<{ set: [index: number, field: string, value: unknown]; remove: [index: number] }>();
const script = useScript();
</script>

<template>
  <template v-for="(one, index) in triggers" :key="index"
    ><template v-if="index"> or </template
    ><SentenceParts
      v-if="script.book.value.triggers.get(one.kind)"
      :sentence="script.book.value.triggers.get(one.kind)!"
      :values="one as unknown as Values"
      :offer="open"
      @change="(field, value) => emit('set', index, field, value)" /><button
      v-if="open"
      class="link tiny"
      :aria-label="takesOut(index + 1)"
      @click="emit('remove', index)">
      ✕
    </button></template
  >
</template>

<style scoped>
.tiny {
  font: 12.5px var(--sans);
  margin: 0 2px 0 4px;
  text-decoration: none;
  color: var(--soft);
}
.tiny:hover {
  color: var(--sea);
}
</style>
