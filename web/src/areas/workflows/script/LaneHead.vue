<script setup lang="ts">
/** The words above a lane: what is answered, what happens, the condition, the share. */
import { computed } from "vue";

import { laneOf, setAt, type Lane, type Step } from "./document";
import SentenceParts from "@/sentences/SentenceParts.vue";
import { useScript } from "./script";
import { many } from "@/ui/words";
import type { Values } from "@/sentences/written";

const props = defineProps<{ step: Step; lane: Lane }>();
const script = useScript();
const ANSWERS = { yes: "answers", out: "answers", other: "answers anything else", none: "says nothing" };
const answer = computed(() => ("answer" in props.lane ? props.lane.answer : undefined));
const sentence = computed(() => script.kinds.value.get(props.step.kind)?.lane);
const hasParts = computed(() => sentence.value && (!answer.value || answer.value === "yes" || answer.value === "out"));
const words = computed(() =>
  answer.value ? `${ANSWERS[answer.value]}${hasParts.value ? " " : ""}` : sentence.value?.sentence ? "" : "each time",
);
const reading = computed(() => script.readings.value.get(props.step.id)?.lanes[props.lane.id]);
const folded = computed(() => script.folded.value.has(props.lane.id));
const holds = computed(() =>
  reading.value
    ? `${many(reading.value.steps, "line")}${reading.value.touches ? `, ${many(reading.value.touches, "touch", "touches")}` : ""}, to day ${reading.value.last_day}`
    : "",
);
const selected = computed(() => script.selected.value === props.lane.id);
/** The lane's words when there are none yet, so that there is something to point at. */
const values = computed<Values>(() => ({ ...props.lane }) as unknown as Values);
function change(field: string, value: unknown) {
  script.change((doc) => setAt(laneOf(doc, props.lane.id)?.lane, field, value));
}
</script>

<template>
  <h3
    :id="`lane-${lane.id}`"
    class="lane-head"
    :class="{ selected }"
    :tabindex="selected ? 0 : -1"
    :aria-label="`Lane: ${reading?.heading ?? ''}`"
    @click.stop="script.select(lane.id)">
    <template v-if="words">{{ words }}</template><SentenceParts
      v-if="hasParts && sentence"
      :sentence="sentence"
      :values="values"
      :within="lane.id"
      @change="change" />
    <button
      type="button"
      class="fold"
      :aria-expanded="!folded"
      :aria-label="folded ? 'Unfold this lane' : 'Fold this lane'"
      :tabindex="selected ? 0 : -1"
      @click.stop="script.fold(lane.id)">
      {{ folded ? "+" : "–" }}
    </button>
  </h3>
  <p v-if="folded" class="soft holds">{{ holds }}</p>
</template>

<style scoped>
h3 {
  position: relative;
  font: italic 600 15.5px/1.35 var(--serif);
  margin: 0 0 6px;
  padding: 0 16px 4px 0;
  border-bottom: 1px solid var(--ink);
  overflow-wrap: break-word;
}
h3.selected {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
.fold {
  position: absolute;
  right: 0;
  top: 0;
  background: none;
  border: 0;
  color: var(--soft);
  padding: 0 3px;
  font: 16px var(--sans);
}
.fold:hover {
  color: var(--sea);
  background: none;
}
.holds {
  font-size: 14px;
  margin: 2px 0;
}
</style>
