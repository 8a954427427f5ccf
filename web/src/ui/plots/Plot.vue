<script setup lang="ts">
/** A plot in our paper and ink, with the sentence that it shows. It is loaded with the page that has one. Its table stands beside it. */
import { CustomChart, LineChart, ScatterChart } from "echarts/charts";
import { GridComponent, TooltipComponent } from "echarts/components";
import { use, type ComposeOption } from "echarts/core";
import type { CustomSeriesOption, LineSeriesOption, ScatterSeriesOption } from "echarts/charts";
import type { GridComponentOption } from "echarts/components";
import { SVGRenderer } from "echarts/renderers";
import { computed } from "vue";
import VChart from "vue-echarts";

export type PlotOption = ComposeOption<LineSeriesOption | CustomSeriesOption | ScatterSeriesOption | GridComponentOption>;
use([SVGRenderer, LineChart, CustomChart, ScatterChart, GridComponent, TooltipComponent]);
const props = defineProps<{ option: PlotOption; says: string; height?: number }>();
const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
const drawn = computed(() => ({
  animation: !calm,
  animationDuration: 300,
  textStyle: { fontFamily: ink("sans") || "sans-serif", color: ink("soft"), fontSize: 13 },
  grid: { left: 8, right: 14, top: 14, bottom: 6, containLabel: true },
  ...props.option,
}));
</script>

<template>
  <figure role="img" :aria-label="says">
    <VChart :option="drawn" :init-options="{ renderer: 'svg' }" autoresize :style="{ height: `${height ?? 220}px` }" />
  </figure>
</template>

<style scoped>
figure {
  margin: 6px 0 12px;
}
</style>
