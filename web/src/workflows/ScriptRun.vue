<script setup lang="ts">
/** A run of lines: the script itself, or one lane of it. Where the way divides, lanes stand side by side below the line. */
import { computed } from "vue";

import { clockTime } from "@/ui/words";
import AddLine from "./AddLine.vue";
import LaneHead from "./LaneHead.vue";
import LineSentence from "./LineSentence.vue";
import RehearsedBelow from "./RehearsedBelow.vue";
import { lanesOf, type Step } from "./document";
import { mark, type Mark } from "./ruler";
import { useScript } from "./script";

const props = defineProps<{ steps: Step[]; lane: string }>();
const script = useScript();
const root = computed(() => props.lane === "");

/** What stands beside a line: where the rehearsal was there, when it happened; else what the ruler computes. */
function time(step: Step, before?: Step): Mark {
  if (script.look.value === "rehearse") {
    const line = acted(step);
    return line ? { day: `Day ${line.day}`, rest: clockTime(line.at) } : { day: "", rest: "" };
  }
  const above = root.value && before ? script.readings.value.get(before.id) : undefined;
  return mark(script.readings.value.get(step.id), above);
}
const waits = (step: Step) => script.readings.value.get(step.id)?.waits === "time";
/** When a rehearsal did what the line does: sent its message, if it has one. */
function acted(step: Step) {
  const lines = script.rehearsed.value.get(step.id);
  return lines?.find((line) => line.messages.length) ?? lines?.[0];
}
function rehearsedAt(step: Step): string {
  return script.look.value === "rehearse" ? (acted(step)?.when.split(",")[0] ?? "") : "";
}
function who(step: Step): { words: string; person: boolean } {
  const kind = script.kinds.value.get(step.kind);
  const words = { account: script.accountName.value, member: script.memberName.value, contact: "The contact", "": "" }[kind?.who ?? ""] ?? "";
  return { words, person: kind?.who === "member" };
}
const dim = (step: Step) => script.look.value === "rehearse" && !script.rehearsed.value.has(step.id);
const addingAt = (index: number) => script.adding.value?.lane === props.lane && script.adding.value.index === index;
function showPeople(step: Step) {
  script.watching.value = script.watching.value === step.id ? "" : step.id;
}
</script>

<template>
  <template v-for="(step, index) in steps" :key="step.id">
    <AddLine v-if="addingAt(index)" :root="root" />
    <div
      :id="`line-${step.id}`" class="line" :class="{ root, selected: script.selected.value === step.id, dim: dim(step), quiet: waits(step) }"
      :tabindex="script.selected.value === step.id || (!script.selected.value && root && index === 0) ? 0 : -1" role="article"
      :aria-label="script.readings.value.get(step.id)?.sentence" :aria-current="script.selected.value === step.id" @click.stop="script.select(step.id)"
    >
      <div class="time">
        <template v-if="script.look.value === 'watch'">
          <button v-if="script.counts.value.get(step.id)?.here" class="link" :aria-pressed="script.watching.value === step.id" title="show who is here" @click.stop="showPeople(step)">{{ script.counts.value.get(step.id)?.here }} here</button>
          {{ script.counts.value.get(step.id)?.passed ? `${script.counts.value.get(step.id)?.passed} passed` : "" }}
        </template>
        <template v-else><b>{{ time(step, steps[index - 1]).day }}</b> {{ time(step, steps[index - 1]).rest }}<small v-if="rehearsedAt(step)" class="date">{{ rehearsedAt(step) }}</small></template>
      </div>
      <div v-if="root" class="who" :class="{ thrift: who(step).person }">{{ who(step).words }}</div>
      <div class="words serif">
        <template v-if="!root && who(step).person"><span class="thrift">{{ who(step).words }}</span>{{ " " }}</template><LineSentence :step="step" :after-name="!root && who(step).person" />
        <div v-for="check in script.look.value === 'write' ? script.checks.value.get(step.id) : []" :key="check.code" class="mark" :class="check.severity === 'error' ? 'rust' : 'gorse'">
          {{ check.severity === "error" ? "✕" : "▲" }} {{ check.sentence }}
        </div>
        <RehearsedBelow v-if="script.look.value === 'rehearse'" :step="step" />
      </div>
    </div>
    <div v-if="lanesOf(step).length" class="lanes" :class="{ nested: !root, dim: dim(step) }" :style="{ '--lanes': lanesOf(step).length }">
      <div v-for="below in lanesOf(step)" :key="below.id" class="lane" role="group">
        <LaneHead :step="step" :lane="below" />
        <ScriptRun :steps="below.steps" :lane="below.id" />
      </div>
    </div>
  </template>
  <AddLine v-if="addingAt(steps.length)" :root="root" />
  <button
    v-else-if="script.look.value === 'write' && script.mayWrite.value" class="next serif" :class="{ root }" :aria-label="root ? 'Write the next line' : 'Write a line in this lane'"
    @click.stop="script.adding.value = { lane, index: steps.length }"
  >{{ root ? "Write the next line…" : steps.length ? "…" : "Nothing happens here; write a line…" }}</button>
</template>

<style scoped>
.line { position: relative; outline-offset: -2px; }
.line.root { display: grid; grid-template-columns: 118px 100px 1fr; align-items: baseline; padding: 5px 0; font-size: 17px; }
.line.selected { background: var(--mist); box-shadow: -3px 0 0 var(--sea); }
.line:not(.root) { padding: 3px 6px; margin: 0 -6px; font-size: 15.5px; }
.line:not(.root) .time { float: right; padding-left: 10px; font-size: 12.5px; }
.line:not(.root) .time b { font-weight: 400; }
.root > .time { text-align: right; padding: 5px 16px 5px 0; margin: -5px 0; border-right: 1px solid var(--rule); align-self: stretch; }
.time { font: 14px/1.5 var(--sans); color: var(--soft); }
.date { display: block; }
.line:not(.root) .date { display: inline; padding-left: 5px; }
.time b { font-weight: 600; color: var(--ink); }
.line.quiet .time b { font-weight: 400; color: var(--soft); }
.line.quiet .words { color: var(--soft); }
.who { font-size: 12.5px; color: var(--soft); padding-left: 14px; }
.who.thrift { color: var(--thrift); font-weight: 600; }
.words { overflow-wrap: break-word; }
.mark { font: 13.5px/1.4 var(--sans); margin-top: 1px; }
.dim > .time b, .dim > .who, .dim > .words, .dim.lanes { color: var(--soft); }
.lanes { display: grid; grid-template-columns: repeat(var(--lanes), minmax(0, 1fr)); margin: 4px 0 4px 118px; border-left: 1px solid var(--rule); border-bottom: 1px solid var(--rule); }
.lanes.nested { margin: 4px 0; }
.lane { padding: 8px 14px 10px; border-right: 1px solid var(--rule); min-width: 0; }
.lane:last-child { border-right: 0; }
.next { display: block; background: none; border: 0; color: var(--soft); font: 16px var(--serif); padding: 4px 0; text-align: left; width: 100%; font-weight: 400; }
.next:hover { background: none; color: var(--sea); }
.next.root { margin-left: 118px; padding: 9px 0 9px 100px; width: auto; border-left: 1px solid var(--rule); }
@media (max-width: 760px) {
  .line.root { grid-template-columns: 84px 1fr; }
  .who { display: none; }
  .lanes { grid-template-columns: 1fr; margin-left: 20px; }
  .next.root { margin-left: 84px; padding-left: 0; border-left: 0; }
}
</style>
