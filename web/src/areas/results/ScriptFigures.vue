<script setup lang="ts">
/** The figures of each line, along the script: who came, what went out and what came of it, who left there and why, who is there now. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { many, number } from "@/ui/words";
import IntervalDot from "./IntervalDot.vue";

type Line = Schemas["LineFigures"];
const props = defineProps<{ data: Schemas["WorkflowResults"] }>();
const aimed = computed(() => props.data.aim !== "");
const COLUMNS: Column[] = [
  { key: "when", label: "When", class: "when" },
  { key: "line", label: "Along the script", heads: true },
  { key: "came", label: "Came", num: true },
  { key: "out", label: "Delivered, done", num: true },
  { key: "clicked", label: "Clicked", num: true },
  { key: "replied", label: "Replied", num: true },
  { key: "next", label: "Aim reached next", num: true },
  { key: "plot", label: "0 to 60 %", class: "plot" },
  { key: "opted", label: "Opted out", num: true },
  { key: "left", label: "Left here", class: "why" },
  { key: "here", label: "Here now", num: true },
];
const reasons = (line: Line) => line.why.map((one) => `${number(one.count)} ${one.why}`).join(" · ");
const failures = (line: Line) => line.sent?.why.map((one) => `${number(one.count)} ${one.why}`).join("; ");
/** Open: replied; filled: the aim was reached next. */
const dotsOf = (line: Line) => [
  ...(line.sent?.replied.tells ? [{ ...line.sent.replied, drawn: "open" as const }] : []),
  ...(line.sent?.reached.tells && aimed.value ? [line.sent.reached] : []),
];
const few = (one: { tells: boolean; of: number; percent: string }) => (one.of ? (one.tells ? one.percent : "") : "");
</script>

<template>
  <DataTable caption="Along the script" :rows="data.lines" :columns="COLUMNS" :row-class="(line) => (line.lane ? 'lane' : undefined)">
    <template #when="{ item }">{{ item.when }}</template>
    <template #line="{ item }"
      ><span class="line" :style="{ paddingLeft: `${item.depth * 18}px` }"
        ><i v-if="item.lane">{{ item.lane }}: </i><span :class="{ thrift: item.who === 'member' }">{{ item.sentence }}</span>
        <small v-if="item.sent?.failed" class="rust" :title="failures(item)"
          >✕ {{ many(item.sent.failed, "failed", "failed") }}<span class="visually-hidden">: {{ failures(item) }}</span></small
        ></span
      ></template
    >
    <template #came="{ item }">{{ item.came ? number(item.came) : "" }}</template>
    <template #out="{ item }"
      ><template v-if="item.sent"
        >{{ number(item.sent.delivered) }} <span class="soft small">of {{ number(item.sent.tried) }}</span></template
      ><template v-else-if="item.tasks"
        >{{ number(item.tasks.done) }} <span class="soft small">of {{ number(item.tasks.made) }}</span></template
      ></template
    >
    <template #clicked="{ item }"
      ><template v-if="item.sent?.clicked"
        >{{ number(item.sent.clicked.count) }} <span class="soft small">{{ few(item.sent.clicked) }}</span></template
      ></template
    >
    <template #replied="{ item }"
      ><template v-if="item.sent"
        >{{ number(item.sent.replied.count) }} <span class="soft small">{{ few(item.sent.replied) }}</span></template
      ></template
    >
    <template #next="{ item }"
      ><template v-if="item.sent && data.aim"
        >{{ number(item.sent.reached.count) }} <span class="soft small">{{ few(item.sent.reached) }}</span></template
      ></template
    >
    <template #plot="{ item }"><IntervalDot v-if="dotsOf(item).length" :dots="dotsOf(item)" :to="0.6" /></template>
    <template #opted="{ item }"
      ><template v-if="item.sent">{{ item.sent.opted_out.count ? number(item.sent.opted_out.count) : "" }}</template></template
    >
    <template #left="{ item }"
      ><span class="soft small">{{ reasons(item) }}</span></template
    >
    <template #here="{ item }"
      ><RouterLink v-if="item.here" :to="{ name: 'workflow', params: { workflow: data.id }, query: { look: 'watch', step: item.step } }"
        >{{ number(item.here) }}<span class="visually-hidden"> at: {{ item.sentence }}</span></RouterLink
      ></template
    >
  </DataTable>
  <p class="small soft">
    An open dot: replied; a filled one: the aim was reached after this line and before the next. Each with its interval.
  </p>
</template>

<style scoped>
.line {
  font: 15.5px/1.35 var(--serif);
  display: block;
}
.line small {
  font: 12.5px var(--sans);
  margin-left: 6px;
}
:deep(.when) {
  color: var(--soft);
  font-size: 13px;
  white-space: nowrap;
}
:deep(.num) {
  white-space: nowrap;
}
</style>
