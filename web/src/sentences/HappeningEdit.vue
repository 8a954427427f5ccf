<script setup lang="ts">
/** Something that happens, as a sentence whose parts are edited in place; what it is can be chosen anew. */
import { computed } from "vue";

import SentenceParts from "./SentenceParts.vue";
import { useAround } from "./around";
import { plain, type Happening, type Values } from "./written";
import { valueOf } from "@/ui/events";

const props = defineProps<{ happening: Happening | null }>();
const emit = defineEmits<{ change: [happening: Happening | null] }>();
const around = useAround();
const kinds = computed(() => [...around.book.value.triggers.values()].filter((one) => one.happens));
const sentence = computed(() => around.book.value.triggers.get(props.happening?.kind ?? ""));
function become(kind: string) {
  const blank = around.book.value.triggers.get(kind)?.blank;
  emit("change", blank ? (plain(blank) as Happening) : null);
}
</script>

<template>
  <select :value="happening?.kind ?? ''" aria-label="What happens" @change="become(valueOf($event))">
    <option value="">nothing of that happens</option>
    <option v-for="one in kinds" :key="one.kind" :value="one.kind">{{ one.label }}</option>
  </select>
  <p v-if="sentence && happening" class="serif said">
    <SentenceParts
      :sentence="sentence"
      :values="happening as Values"
      offer
      @change="(field, value) => emit('change', { ...happening, [field]: value } as Happening)" />
  </p>
</template>

<style scoped>
.said {
  margin: 6px 0;
  font-size: 16px;
}
</style>
