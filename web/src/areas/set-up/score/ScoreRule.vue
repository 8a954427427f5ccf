<script setup lang="ts">
/** A rule: its points in the ruler's place at the left, its sentence, how many it gives something, and what it gives one person. */
import { computed } from "vue";

import PartInPlace from "@/sentences/PartInPlace.vue";
import type { Condition, Happening, Part } from "@/sentences/written";
import WordPart from "@/shared/settings/WordPart.vue";
import { signed } from "./rules";

const props = defineProps<{
  points: number;
  name: string;
  when?: unknown;
  on?: Happening;
  limit?: number | null;
  halfLife?: string | null;
  /** "new", "was 10", or nothing. */
  state: string;
  people?: number;
  gives?: [number, number];
  may: boolean;
}>();
const emit = defineEmits<{
  points: [points: number];
  when: [when: Condition];
  on: [on: Happening];
  limit: [limit: number | null];
  halfLife: [halfLife: string | null];
  drop: [];
}>();
const part = (sort: "condition" | "happening", label: string) =>
  ({ field: sort, sort, label, optional: false, empty: "…", clause: "" }) as unknown as Part;
const WHEN = part("condition", "who they are");
const ON = part("happening", "what they do");
const tenth = (points: number) => Math.round(points * 10) / 10;
const days = computed(() => props.halfLife?.match(/^(\d+) days?$/)?.[1] ?? (props.halfLife ? String(props.halfLife) : ""));
function setPoints(typed: string) {
  const points = Number(typed.replace("−", "-").replace("+", ""));
  if (Number.isFinite(points)) emit("points", points);
}
function setHalfLife(typed: string) {
  const text = typed.trim();
  emit("halfLife", !text ? null : /^\d+$/.test(text) ? `${text} days` : text);
}
</script>

<template>
  <div class="rule">
    <div class="t">
      <WordPart :value="signed(points)" :label="`Points: ${name}`" :most="9" :disabled="!may" @keep="setPoints" />
    </div>
    <div class="line">
      <PartInPlace v-if="on" :part="ON" :value="on" @change="$event && emit('on', $event as Happening)" />
      <PartInPlace v-else :part="WHEN" :value="when" @change="$event && emit('when', $event as Condition)" /><template v-if="on"
        >, at most
        <WordPart
          :value="limit ?? ''"
          type="number"
          :label="`At most: ${name}`"
          empty="without end"
          :least="1"
          :most="1000000"
          :disabled="!may"
          @keep="emit('limit', $event ? Number($event) : null)" />, fading by half in
        <WordPart :value="days" :label="`Days to half: ${name}`" empty="never" :most="12" :disabled="!may" @keep="setHalfLife" />{{
          halfLife && /^\d+$/.test(days) ? " days" : ""
        }}</template
      >.
      <BButton v-if="may" variant="link" class="icon" :aria-label="`Take away: ${name}`" @click="emit('drop')">✕</BButton>
      <span v-if="state" class="own gorse">{{ state === "new" ? "New, not counted yet." : `It ${state}; not counted yet.` }}</span>
    </div>
    <span class="fig" :title="'people it gives something'">{{ people ?? 0 }}<span class="visually-hidden"> people</span></span>
    <span class="fig">
      <template v-if="gives && (tenth(gives[0]) || tenth(gives[1]))"
        ><span v-if="tenth(gives[0]) !== tenth(gives[1])" class="soft">{{ tenth(gives[0]) }} → </span>{{ tenth(gives[1]) }}</template
      ></span
    >
  </div>
</template>

<style scoped>
.rule {
  display: grid;
  grid-template-columns: 62px minmax(0, 1fr) 52px 92px;
  align-items: baseline;
}
.t {
  align-self: stretch;
  text-align: right;
  padding: 3px 12px 3px 0;
  border-right: 1px solid var(--rule);
  font-weight: 600;
}
.line {
  font: 17px/1.45 var(--serif);
  padding: 3px 0 3px 14px;
}
.own {
  display: block;
  font: 13px/1.35 var(--sans);
}
.fig {
  text-align: right;
  font-variant-numeric: tabular-nums;
  font-size: 14.5px;
}
@media (max-width: 700px) {
  .rule {
    grid-template-columns: 54px minmax(0, 1fr);
  }
  .rule > .fig {
    display: none;
  }
}
</style>
