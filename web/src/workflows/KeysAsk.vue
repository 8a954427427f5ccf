<script setup lang="ts">
import Ask from "@/ui/Ask.vue";

const emit = defineEmits<{ close: [] }>();
const KEYS: [string, string][] = [
  ["↑ ↓", "go from line to line"],
  ["Enter", "write a line below; type what it is: “text checking in”, “wait 5 days”, “call about the course”"],
  ["→", "to the first underlined part; Tab to the next; Enter changes it, Escape leaves it"],
  ["Alt ↑ ↓", "move the line; from the edge of a lane it goes out"],
  ["Del", "take the line out"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["Ctrl C, X, V", "copy, cut, paste lines, also into another workflow or account"],
  ["N", "to the notes of the line: its message"],
  ["{", "in a message: a merge field"],
  ["Esc", "out of a part, a list, a selection"],
  ["Ctrl J", "switch account"],
  ["?", "these keys"],
];
</script>

<template>
  <Ask v-slot="{ close }" title="Keys" @close="emit('close')">
    <dl>
      <template v-for="[key, words] in KEYS" :key="key"><dt><kbd>{{ key }}</kbd></dt><dd>{{ words }}</dd></template>
    </dl>
    <div class="actions"><button class="plain" @click="close">Back to the script</button></div>
  </Ask>
</template>

<style scoped>
dl { display: grid; grid-template-columns: 110px 1fr; gap: 6px 14px; margin: 0; }
dd { margin: 0; }
</style>
