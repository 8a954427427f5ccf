<script setup lang="ts">
/** In the notes of a line: that its email is a letter in lines, and the way to it. */
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { many } from "@/ui/words";
import { readable } from "../script/wordings";
import type { Letter } from "./useLetter";

const props = defineProps<{ step: string; field: string; letter: Letter; open: boolean }>();
const emit = defineEmits<{ plain: [] }>();
const route = useRoute();
const router = useRouter();
const first = computed(() => {
  const words = props.letter.lines.map((one) => one.words).find((one) => typeof one === "string" && one.trim());
  return typeof words === "string" ? readable(words) : "";
});
const go = () => router.push({ query: { ...route.query, letter: `${props.step}.${props.field}` } });
</script>

<template>
  <div class="letter">
    <p class="serif">
      A letter of {{ many(letter.lines.length, "line") }}<template v-if="first">: “{{ first }}”</template>
    </p>
    <p>
      <BButton variant="outline-primary" @click="go">Open the letter</BButton>
      <BButton v-if="open" variant="link" class="small" @click="emit('plain')">Back to plain words</BButton>
    </p>
  </div>
</template>

<style scoped>
.letter {
  border-top: 1px solid var(--ink);
  padding-top: 8px;
}
p:last-child {
  display: flex;
  gap: 14px;
  align-items: center;
}
</style>
