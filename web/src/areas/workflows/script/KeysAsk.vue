<script setup lang="ts">
/** The keys of the workflow page. */
import Ask from "@/ui/Ask.vue";
import KeyList from "@/ui/KeyList.vue";

const emit = defineEmits<{ close: [] }>();
const KEYS: [string, string][] = [
  ["↑ ↓", "from line to line, and to the words above a lane; with Shift several lines"],
  ["Enter", "write a line below: “after 5 days text hello”, “wait 72 hours”, “call ana about the course”"],
  ["→", "to the first underlined part; Tab to the next; Enter changes it, Escape leaves it"],
  ["Alt ↑ ↓", "move the lines; from the edge of a lane they go out"],
  ["Alt ← →", "move the lane to the left or right"],
  ["Del", "take the lines, or the lane, out"],
  ["Ctrl Z, Ctrl Y", "undo, redo"],
  ["Ctrl C, X, V", "copy, cut, paste lines, also into another workflow or account"],
  ["N", "to the notes of the line: its message; Escape comes back"],
  ["{", "in a message: a merge field"],
  ["F", "fold or unfold the lane, or the lanes of the line"],
  ["Alt M", "mend what the first check of the line says, or the first that can be mended"],
  ["Alt C", "to the next line with a check"],
  ["Alt H", "to the head: what starts it, who comes in, what ends it"],
  ["Alt 1, 2, 3", "write, rehearse, watch"],
  ["→ ←", "while rehearsing: one thing on, one back"],
  ["Alt E, K", "while rehearsing: to the end; keep it as a scenario"],
  ["Alt P", "publish…"],
  ["Alt T, W, N", "of a message: send it to me as a test, another wording, make the next one from this"],
  ["Alt R", "find and replace in all messages"],
  ["Esc", "out of a part, a list, a selection"],
  ["Ctrl J", "switch account"],
  ["?", "these keys"],
];
</script>

<template>
  <Ask v-slot="{ close }" title="Keys" wide @close="emit('close')">
    <KeyList :keys="KEYS" />
    <p class="soft">
      Each of these has something to click, too: lines and parts themselves, and the words below the script and in the notes.
    </p>
    <div class="actions"><BButton variant="outline-primary" @click="close">Back to the script</BButton></div>
  </Ask>
</template>
