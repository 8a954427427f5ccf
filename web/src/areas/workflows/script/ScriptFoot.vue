<script setup lang="ts">
/** What can be done with the lines that are chosen, and with the whole script, without knowing a key for it. */
import { many } from "@/ui/words";
import { useScript } from "./script";
import type { useDraft } from "./useDraft";
import ShownHere from "../shown/ShownHere.vue";
import type { useLines } from "./useLines";

const props = defineProps<{
  draft: ReturnType<typeof useDraft>;
  lines: ReturnType<typeof useLines>;
  workflow: number;
  version: number | null;
  open: boolean;
}>();
const emit = defineEmits<{ paste: []; ask: [what: "find" | "keys" | "show"]; door: [open: boolean] }>();
const { account, look, mayWrite, chosen } = useScript();
const { canUndo, canRedo } = props.draft;
const file = (name: string) => `/api/accounts/${account.value}/workflows/${props.workflow}/${name}`;
</script>

<template>
  <p class="foot small soft" @click.stop>
    <template v-if="look === 'write' && mayWrite">
      <BButton variant="link" :disabled="!canUndo" @click="draft.undo()">Undo</BButton>
      <BButton variant="link" :disabled="!canRedo" @click="draft.redo()">Redo</BButton>
      <template v-if="chosen.size"
        ><BButton variant="link" @click="lines.copy(false)">Copy {{ many(chosen.size, "line") }}</BButton>
        <BButton variant="link" @click="lines.copy(true)">Cut</BButton>
        <BButton variant="link" @click="lines.move(-1)">Move up</BButton>
        <BButton variant="link" @click="lines.move(1)">Move down</BButton></template
      >
      <BButton variant="link" @click="emit('paste')">Paste</BButton>
      <BButton variant="link" @click="emit('ask', 'find')">Find and replace</BButton>
    </template>
    <BButton variant="link" @click="emit('ask', 'keys')">Keys</BButton>
    <span class="grow" />
    <RouterLink v-if="version" :to="{ name: 'versions', params: { workflow } }">Versions</RouterLink>
    <ShownHere :workflow="workflow" @show="emit('ask', 'show')" />
    <a :href="file('script.pdf')">On paper (PDF)</a>
    <a :href="file('script.mmd')">Flowchart (Mermaid)</a>
    <span>Save as <a :href="file('file.yaml')">YAML</a> or <a :href="file('file.json')">JSON</a></span>
    <BButton v-if="mayWrite && version" variant="link" @click="emit('door', !open)">{{
      open ? "Close it to newcomers" : "Open it to newcomers"
    }}</BButton>
  </p>
</template>

<style scoped>
.foot {
  display: flex;
  gap: 14px;
  margin-top: 34px;
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  flex-wrap: wrap;
}
</style>
