<script setup lang="ts">
/** A script to be read, not written: when, what, and every message in full. */
import type { Schemas } from "@/api/client";
import { computed } from "vue";

import { lanesOf, type Step } from "./script/document";
import { mark } from "./script/ruler";
import { readable } from "./script/wordings";
import type { Values } from "@/sentences/written";

const props = defineProps<{ steps: Step[]; lines: Schemas["LineReading"][]; inner?: boolean }>();
const readings = computed(() => new Map(props.lines.map((line) => [line.step, line])));
const time = (step: Step, before?: Step) => mark(readings.value.get(step.id), before && readings.value.get(before.id));
interface Message {
  subject?: string;
  body: string;
}
function messages(step: Step): Message[] {
  return Object.values(step as unknown as Values).filter(
    (value): value is Message => typeof value === "object" && value !== null && "body" in value,
  );
}
</script>

<template>
  <div v-for="(step, index) in steps" :key="step.id" class="printed" :class="{ inner }">
    <div class="when soft">
      <b>{{ time(step, steps[index - 1]).day }}</b> {{ time(step, steps[index - 1]).rest }}
    </div>
    <div>
      <p class="serif said">{{ readings.get(step.id)?.sentence }}</p>
      <blockquote v-for="(message, at) in messages(step)" :key="at">
        <strong v-if="message.subject">{{ readable(message.subject) }}</strong>{{ readable(message.body) }}
      </blockquote>
      <div v-for="lane in lanesOf(step)" :key="lane.id" class="lane">
        <h3>{{ readings.get(step.id)?.headings[lane.id] }}</h3>
        <ScriptPrint :steps="lane.steps" :lines="lines" inner />
      </div>
    </div>
  </div>
</template>

<style scoped>
.printed {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 14px;
  padding: 5px 0;
}
.printed.inner {
  grid-template-columns: 84px minmax(0, 1fr);
}
.when {
  text-align: right;
  font-size: 13.5px;
  padding-top: 2px;
}
.when b {
  color: var(--ink);
  font-weight: 600;
}
.said {
  font-size: 16.5px;
  margin: 0;
}
blockquote {
  margin: 4px 0 6px;
  padding: 4px 12px;
  border-left: 2px solid var(--rule);
  white-space: pre-line;
  font: 15px/1.45 var(--serif);
  color: var(--soft);
  overflow-wrap: anywhere;
}
blockquote strong {
  display: block;
}
.lane {
  margin-top: 6px;
  border-left: 1px solid var(--rule);
  padding-left: 12px;
}
h3 {
  font: italic 600 15px var(--serif);
}
</style>
