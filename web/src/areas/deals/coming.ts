/** What deals will bring, and how long they take, as plots: dots with their ranges, and steps. */
import type { Schemas } from "@/api/client";
import type { PlotOption } from "@/ui/plots/Plot.vue";

type Coming = Schemas["ComingOut"];
const MONTH = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });
const tint = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
const axis = () => ({
  axisLine: { lineStyle: { color: tint("ink") } },
  axisTick: { lineStyle: { color: tint("ink") } },
  axisLabel: { color: tint("soft") },
  splitLine: { lineStyle: { color: tint("rule") } },
});

export const monthWords = (month: string) => (month ? MONTH.format(new Date(`${month}-01T00:00Z`)) : "no date");
export const percent = (share: number) => `${Math.round(share * 100)} %`;

/** A month a row: the likely worth as a dot on its range. */
export function monthsPlot(months: Coming["months"], worth: (amount: number) => string): PlotOption {
  const names = months.map((one) => monthWords(one.month));
  return {
    xAxis: { type: "value", min: 0, ...axis(), axisLabel: { color: tint("soft"), formatter: (value: number) => worth(value) } },
    yAxis: { type: "category", data: names, inverse: true, ...axis(), splitLine: { show: false } },
    series: [
      {
        type: "custom",
        silent: true,
        data: months.map((one, n) => [one.low, one.high, n]),
        encode: { x: [0, 1], y: 2 },
        renderItem: (_, api) => {
          const [from, to] = [api.coord([api.value(0), api.value(2)]), api.coord([api.value(1), api.value(2)])];
          const shape = { x1: from[0] ?? 0, y1: from[1] ?? 0, x2: to[0] ?? 0, y2: to[1] ?? 0 };
          return { type: "line", shape, style: { stroke: tint("sea"), lineWidth: 3, opacity: 0.4 } };
        },
      },
      { type: "scatter", symbolSize: 9, itemStyle: { color: tint("sea") }, data: months.map((one, n) => [one.likely, n]) },
    ],
  };
}

/** Of a hundred deals, how many are won and lost by then. */
export function stepsPlot(steps: Coming["steps"]): PlotOption {
  const line = (way: "won" | "lost", colour: string, dashed: boolean) => ({
    type: "line" as const,
    step: "end" as const,
    symbol: "none",
    name: way,
    lineStyle: { color: tint(colour), width: 2, type: dashed ? ("dashed" as const) : ("solid" as const) },
    endLabel: { show: true, formatter: way, color: tint(colour), fontSize: 13 },
    data: [[0, 0], ...steps.map((one) => [one.days, Math.round(one[way].value * 1000) / 10])],
  });
  return {
    grid: { left: 8, right: 48, top: 14, bottom: 22, containLabel: true },
    xAxis: {
      type: "value",
      name: "days since it was made",
      nameLocation: "middle",
      nameGap: 26,
      min: 0,
      ...axis(),
      splitLine: { show: false },
    },
    yAxis: { type: "value", min: 0, max: 100, ...axis(), axisLabel: { color: tint("soft"), formatter: "{value} %" } },
    series: [line("won", "sea", false), line("lost", "rust", true)],
  };
}
