<script setup lang="ts">
/** The marks on a ruler of points, with how many stand at each five: now, and with the changes. The same in words below. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import WordPart from "@/shared/settings/WordPart.vue";
import { number } from "@/ui/words";

type Mark = Schemas["Mark"];
const props = defineProps<{
  bars: Schemas["BarOut"][];
  step: number;
  marks: readonly Mark[];
  moves: Schemas["MovesOut"][];
  drafted: boolean;
  may: boolean;
  /** The score they belong to. */
  of: string;
}>();
const emit = defineEmits<{ marks: [marks: Mark[]] }>();
const WIDE = 860;
const HIGH = 92;
const order = computed(() => [...props.marks].sort((a, b) => a.at_least - b.at_least));
const from = computed(() => Math.min(0, ...props.bars.map((one) => one.points), ...order.value.map((one) => one.at_least)) - props.step);
const to = computed(() =>
  Math.max(60, ...props.bars.map((one) => one.points + props.step), ...order.value.map((one) => one.at_least + 20)),
);
const x = (points: number) => ((points - from.value) / (to.value - from.value)) * WIDE;
const most = computed(() => Math.max(1, ...props.bars.flatMap((one) => [one.before, one.after])));
const high = (count: number) => (count / most.value) * (HIGH - 26);
const ticks = computed(() => {
  const every = to.value - from.value > 400 ? 100 : to.value - from.value > 160 ? 20 : 10;
  const first = Math.ceil(from.value / every) * every;
  return Array.from({ length: Math.floor((to.value - first) / every) + 1 }, (_, n) => first + n * every);
});
const sum = (side: "before" | "after", name: string) =>
  props.moves.filter((one) => one[side] === name).reduce((all, one) => all + one.count, 0);
const says = computed(
  () => `How many people stand at each ${props.step} points${props.drafted ? ", now and with the changes" : ""}; by mark it is said below.`,
);
const set = (mark: Mark, one: Partial<Mark>) =>
  emit(
    "marks",
    props.marks.map((each) => (each.name === mark.name ? { ...each, ...one } : each)),
  );
const drop = (mark: Mark) =>
  emit(
    "marks",
    props.marks.filter((each) => each.name !== mark.name),
  );
function add() {
  const top = order.value.at(-1)?.at_least ?? 0;
  emit("marks", [...props.marks, { name: `mark ${props.marks.length + 1}`, at_least: top + 20, score: props.of }]);
}
</script>

<template>
  <div>
    <svg :viewBox="`0 0 ${WIDE} ${HIGH + 24}`" role="img" :aria-label="says">
      <g v-for="one in bars" :key="one.points">
        <rect class="now" :x="x(one.points + 1)" :y="HIGH - high(one.before)" width="5" :height="high(one.before)" />
        <rect v-if="drafted" class="new" :x="x(one.points + 1) + 6" :y="HIGH - high(one.after)" width="5" :height="high(one.after)" />
      </g>
      <line class="axis" x1="0" :x2="WIDE" :y1="HIGH" :y2="HIGH" />
      <g v-for="tick in ticks" :key="tick">
        <line class="axis" :x1="x(tick)" :x2="x(tick)" :y1="HIGH" :y2="HIGH + 5" />
        <text :x="x(tick)" :y="HIGH + 18">{{ tick }}</text>
      </g>
      <g v-for="mark in order" :key="mark.name">
        <line class="mark" :x1="x(mark.at_least)" :x2="x(mark.at_least)" y1="2" :y2="HIGH + 5" />
        <text class="name" :x="x(mark.at_least) + 6" y="14">{{ mark.name }}</text>
      </g>
    </svg>
    <p class="marks">
      <span class="soft">below every mark {{ number(sum("before", "")) }}{{ drafted ? ` → ${number(sum("after", ""))}` : "" }}</span>
      <span v-for="mark in order" :key="mark.name"
        ><WordPart
          :value="mark.name"
          :label="`The mark ${mark.name}`"
          :most="40"
          :disabled="!may"
          @keep="$event && set(mark, { name: $event })" />
        from
        <WordPart
          :value="mark.at_least"
          type="number"
          :label="`${mark.name}: from so many points`"
          :least="-1000000"
          :most="1000000"
          :disabled="!may"
          @keep="$event !== '' && set(mark, { at_least: Number($event) })" />: {{ number(sum("before", mark.name))
        }}<template v-if="drafted">
          → <b>{{ number(sum("after", mark.name)) }}</b></template
        >
        <BButton v-if="may" variant="link" class="icon" :aria-label="`Take the mark ${mark.name} away`" @click="drop(mark)"
          >✕</BButton
        ></span
      >
      <BButton v-if="may" variant="link" class="small" @click="add">one more mark</BButton>
    </p>
  </div>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  font-family: var(--sans);
  overflow: visible;
}
text {
  font-size: 12.5px;
  fill: var(--soft);
  text-anchor: middle;
}
.name {
  font: 600 15px var(--serif);
  fill: var(--ink);
  text-anchor: start;
}
.now {
  fill: #84928f;
}
.new {
  fill: var(--sea);
}
.axis,
.mark {
  stroke: var(--ink);
}
.mark {
  stroke-width: 1.5;
}
.marks {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 24px;
  margin: 2px 0 8px;
  font: 16px var(--serif);
}
</style>
