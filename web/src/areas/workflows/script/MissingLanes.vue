<script setup lang="ts">
/** Lanes that a line which hears answers can have and has not yet: one for each kind of answer, or for what comes of a conversation. */
import { computed } from "vue";

import { LANE_NAMES, lanesOf, newId, stepOf, type AssistantLane, type ReplyLane, type Step } from "./document";
import { useScript } from "./script";

const props = defineProps<{ step: Step }>();
const script = useScript();
const ANSWERS: ReplyLane["answer"][] = ["yes", "out", "other", "none"];
const ENDINGS: AssistantLane["ending"][] = ["booked", "declined", "later", "person", "none"];
const talks = computed(() => props.step.kind === "booking_assistant");
const has = (kind: string) =>
  lanesOf(props.step).some((one) => ("answer" in one && one.answer === kind) || ("ending" in one && one.ending === kind));
const missing = computed(() => (talks.value ? ENDINGS : ANSWERS).filter((kind) => !has(kind)));
function add(kind: string) {
  script.change((doc) => {
    const found = stepOf(doc, props.step.id);
    const id = newId("lane");
    if (found?.kind === "wait_for_reply") {
      const answer = kind as ReplyLane["answer"];
      found.lanes.push({ id, answer, words: answer === "yes" ? ["yes"] : answer === "out" ? ["no"] : [], steps: [] });
      found.lanes.sort((a, b) => ANSWERS.indexOf(a.answer) - ANSWERS.indexOf(b.answer));
    } else if (found?.kind === "booking_assistant") {
      found.lanes.push({ id, ending: kind as AssistantLane["ending"], steps: [] });
      found.lanes.sort((a, b) => ENDINGS.indexOf(a.ending) - ENDINGS.indexOf(b.ending));
    }
  });
}
</script>

<template>
  <p v-if="script.mayWrite.value && missing.length" class="links">
    Add a lane for <BButton v-for="kind in missing" :key="kind" variant="link" @click="add(kind)">{{ LANE_NAMES[kind] }}</BButton>
  </p>
  <p v-if="talks" class="soft">
    The line above asks them; the assistant hears what they answer. What it says is
    <RouterLink :to="{ name: 'booking-assistant' }">the account’s</RouterLink>. In a rehearsal the times are those of an empty diary.
  </p>
</template>

<style scoped>
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-top: 12px;
}
</style>
