<script setup lang="ts">
/** Who came in, week by week: who reached the aim, who did not, who has days left. Its figures stand in its label. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { dayOf } from "@/ui/words";

const props = defineProps<{ weeks: Schemas["WeekFigures"][]; of: string }>();
const [WIDTH, HEIGHT] = [220, 30];
const most = computed(() => Math.max(1, ...props.weeks.map((one) => one.reached + one.did_not + one.days_left)));
const step = computed(() => WIDTH / Math.max(1, props.weeks.length));
const bars = computed(() =>
  props.weeks.map((one, n) => {
    const high = (count: number) => (count / most.value) * HEIGHT;
    const [reached, didNot, left] = [high(one.reached), high(one.did_not), high(one.days_left)];
    return {
      key: one.monday,
      x: n * step.value + 0.5,
      width: Math.max(1, Math.min(12, step.value - 1.5)),
      parts: [
        { is: "reached", y: HEIGHT - reached, height: reached },
        { is: "did-not", y: HEIGHT - reached - didNot, height: didNot },
        { is: "left", y: HEIGHT - reached - didNot - left, height: left },
      ].filter((part) => part.height > 0),
    };
  }),
);
const says = computed(() => {
  const some = props.weeks.filter((one) => one.reached + one.did_not + one.days_left > 0);
  const said = some.map(
    (one) => `${dayOf(one.monday)}: ${one.reached} reached it, ${one.did_not} did not, ${one.days_left} have days left`,
  );
  return `${props.of} by week. ${said.join("; ") || "Nobody came in."}`;
});
</script>

<template>
  <svg :width="WIDTH + 26" :height="HEIGHT + 2" role="img" :aria-label="says">
    <g v-for="bar in bars" :key="bar.key">
      <rect v-for="part in bar.parts" :key="part.is" :class="part.is" :x="bar.x" :width="bar.width" :y="part.y" :height="part.height" />
    </g>
    <line class="floor" x1="0" :x2="WIDTH" :y1="HEIGHT + 0.5" :y2="HEIGHT + 0.5" />
    <text :x="WIDTH + 4" y="10">{{ most }}</text>
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
.reached {
  fill: var(--sea);
}
.did-not {
  fill: var(--sea);
  fill-opacity: 0.25;
}
.left {
  fill: none;
  stroke: var(--sea);
  stroke-opacity: 0.6;
}
.floor {
  stroke: var(--rule);
}
text {
  font: 12.5px var(--sans);
  fill: var(--soft);
}
</style>
