<script setup lang="ts">
/** Shares, or a difference, as dots on their intervals, one below the other, beside the figures that say them: so a screen reader hears the
 * figures alone. */
import { computed } from "vue";

interface Dot {
  value: number;
  low: number;
  high: number;
  drawn?: "filled" | "open" | "strong";
}
const props = withDefaults(defineProps<{ dots: Dot[]; from?: number; to?: number; width?: number }>(), { from: 0, to: 1, width: 120 });
const HEIGHT = 24;
const x = (part: number) =>
  6 + ((Math.min(props.to, Math.max(props.from, part)) - props.from) / (props.to - props.from)) * (props.width - 12);
const y = (n: number) => (HEIGHT * (n + 0.5)) / props.dots.length;
const lines = computed(() => [0, 0.25, 0.5, 0.75, 1].map((part) => 6 + part * (props.width - 12)));
</script>

<template>
  <svg :width="width" :height="HEIGHT" aria-hidden="true">
    <line v-for="at in lines" :key="at" class="grid" :x1="at" :x2="at" y1="0" :y2="HEIGHT" />
    <line v-if="from < 0" class="zero" :x1="x(0)" :x2="x(0)" y1="0" :y2="HEIGHT" />
    <g v-for="(one, n) in dots" :key="n" :class="one.drawn ?? 'filled'">
      <line class="span" :x1="x(one.low)" :x2="x(one.high)" :y1="y(n)" :y2="y(n)" />
      <circle v-if="one.value <= to" :cx="x(one.value)" :cy="y(n)" r="3.8" />
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
.grid {
  stroke: var(--rule);
}
.zero {
  stroke: var(--soft);
}
.span {
  stroke: var(--sea);
  stroke-width: 1.6;
}
circle {
  fill: var(--sea);
  stroke: var(--sea);
}
.open .span {
  stroke: var(--soft);
}
.open circle {
  fill: var(--paper);
  stroke: var(--soft);
  stroke-width: 1.4;
}
.strong .span,
.strong circle {
  stroke: var(--ink);
  fill: var(--ink);
}
</style>
