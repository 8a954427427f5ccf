<script setup lang="ts">
/** The words above a lane: what is answered, or the condition. */
import { computed, nextTick, ref } from "vue";

import { laneOf, type Lane, type ReplyLane, type Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ step: Step; lane: Lane }>();
const script = useScript();
const editing = ref(false);
const typed = ref("");
const field = ref<HTMLInputElement>();
const button = ref<HTMLElement>();
const ANSWERS = { yes: "answers", out: "answers", other: "answers anything else", none: "says nothing" };

const reply = computed(() => ("answer" in props.lane ? (props.lane as ReplyLane) : undefined));
const hasWords = computed(() => reply.value?.answer === "yes" || reply.value?.answer === "out");
const condition = computed(() => {
  if (reply.value) return "";
  if ("when" in props.lane && !props.lane.when) return "everyone else";
  return script.readings.value.get(props.step.id)?.headings[props.lane.id] ?? "…";
});
const open = computed(() => script.look.value === "write" && script.mayWrite.value);

async function edit() {
  if (!open.value) return;
  script.select(props.lane.id);
  if (!hasWords.value) return;
  typed.value = reply.value?.words.join(", ") ?? "";
  editing.value = true;
  await nextTick();
  field.value?.focus();
}
async function keep(back: boolean) {
  if (!editing.value) return;
  editing.value = false;
  const words = typed.value.split(",").map((word) => word.trim()).filter(Boolean);
  script.change((doc) => {
    const found = laneOf(doc, props.lane.id)?.lane;
    if (found && "answer" in found) found.words = words;
  });
  await nextTick();
  if (back) button.value?.focus();
}
</script>

<template>
  <h3 :class="{ selected: script.selected.value === lane.id }" @click.stop="script.select(lane.id)">
    <template v-if="reply">
      {{ ANSWERS[reply.answer] }}
      <input v-if="editing" ref="field" v-model="typed" aria-label="words, by comma" @keydown.stop.enter.prevent="keep(true)" @keydown.stop.esc="editing = false" @keydown.stop @blur="keep(false)" />
      <span v-else-if="hasWords" ref="button" class="part" :class="{ open }" :role="open ? 'button' : undefined" :tabindex="open ? 0 : undefined" :aria-label="`words: ${reply.words.join(', ') || 'none'}`" @click.stop="edit" @keydown.enter.prevent.stop="edit" @keydown.space.prevent.stop="edit">{{ reply.words.join(", ") || "…" }}</span>
    </template>
    <span v-else class="part" :class="{ open }" :role="open ? 'button' : undefined" :tabindex="open ? 0 : undefined" @click.stop="edit" @keydown.enter.prevent.stop="edit" @keydown.space.prevent.stop="edit">{{ condition }}</span>
  </h3>
</template>

<style scoped>
h3 { font: italic 600 15.5px/1.35 var(--serif); margin: 0 0 6px; padding-bottom: 4px; border-bottom: 1px solid var(--ink); overflow-wrap: break-word; }
h3.selected { background: var(--mist); }
.part.open { text-decoration: underline; text-decoration-color: var(--sea); text-decoration-thickness: 1px; text-underline-offset: 3px; cursor: pointer; }
input { width: 100%; font-size: 14px; }
</style>
