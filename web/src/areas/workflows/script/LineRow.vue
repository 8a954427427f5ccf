<script setup lang="ts">
/** One line of the script: when, who, its sentence, its checks, and in a rehearsal what it did. */
import { computed } from "vue";

import { clockTime } from "@/ui/words";
import LineSentence from "./LineSentence.vue";
import RehearsedBelow from "./RehearsedBelow.vue";
import type { Step } from "./document";
import { mark, quiet, type Mark } from "./ruler";
import { useScript, type Behind } from "./script";
import StateMark from "@/ui/StateMark.vue";

const props = defineProps<{ step: Step; before?: string; root: boolean; first: boolean }>();
const script = useScript();
const NONE: never[] = []; // one and the same, so that nothing stays nothing
const reading = computed(() => script.readings.value.get(props.step.id));
const above = computed(() => (props.before ? script.readings.value.get(props.before) : undefined));
const selected = computed(() => script.selected.value === props.step.id);
const chosen = computed(() => script.chosen.value.has(props.step.id));
const tab = computed(() => (selected.value || (props.first && !script.selected.value) ? 0 : -1));
const waits = computed(() => reading.value?.waits === "time");
const rehearsing = computed(() => script.look.value === "rehearse");
/** When a rehearsal did what the line does: sent its message, if it has one. */
const acted = computed(() => {
  const lines = rehearsing.value ? script.rehearsed.value.get(props.step.id) : undefined;
  return lines?.find((line) => line.messages.length) ?? lines?.[0];
});
/** Where the rehearsal was there, when it happened; else what the ruler computes. */
const time = computed<Mark>(() => {
  if (rehearsing.value)
    return acted.value
      ? { day: `Day ${acted.value.day}`, rest: clockTime(acted.value.at), date: acted.value.when.split(",")[0] }
      : { day: "", rest: "" };
  return mark(reading.value, props.root ? above.value : undefined);
});
const gap = computed(() => (props.root && !rehearsing.value ? quiet(reading.value, above.value) : ""));
const count = computed(() => script.counts.value.get(props.step.id));
const checks = computed(() => (script.look.value === "write" ? (script.checks.value.get(props.step.id) ?? NONE) : NONE));
const shifts = computed(() => (script.look.value === "write" ? (reading.value?.shifts ?? NONE) : NONE));
const who = computed(() => {
  const acts = script.kinds.value.get(props.step.kind)?.who ?? "";
  const named =
    "assign" in props.step && props.step.assign.members.length
      ? props.step.assign.members.map((name) => name.split(" ")[0]).join(", ")
      : script.memberName.value;
  return { words: { account: script.accountName.value, member: named, contact: "The contact", "": "" }[acts], person: acts === "member" };
});
const NUMBERS: [Behind["number"], string][] = [
  ["here", "here"],
  ["passed", "went on"],
  ["left", "left"],
];
const numbers = computed(() =>
  NUMBERS.flatMap(([number, words]) => (count.value?.[number] ? [{ number, words: `${count.value[number]} ${words}` }] : [])),
);
const isWatched = (number: Behind["number"]) => script.watching.value?.step === props.step.id && script.watching.value.number === number;
function showPeople(number: Behind["number"]) {
  script.watching.value = isWatched(number) ? undefined : { step: props.step.id, number };
}
</script>

<template>
  <div v-if="gap" class="gap soft">
    <span>{{ gap }}</span><span class="still">quiet</span>
  </div>
  <div
    :id="`line-${step.id}`"
    class="line"
    :class="{ root, selected, chosen, dim: rehearsing && !acted, quiet: waits, at: script.steppedTo.value === step.id }"
    :tabindex="tab"
    role="article"
    :aria-label="reading?.sentence"
    :aria-current="selected"
    @mousedown.shift.prevent
    @click.stop="script.select(step.id, false, $event.shiftKey)">
    <div class="time" :class="{ numbers: script.look.value === 'watch' }">
      <template v-if="script.look.value === 'watch'">
        <button
          v-for="one in numbers"
          :key="one.number"
          class="link number"
          :class="one.number"
          :aria-pressed="isWatched(one.number)"
          :title="`show who: ${one.words}`"
          @click.stop="showPeople(one.number)">
          {{ one.words }}
        </button>
        <small v-if="count?.held" class="gorse date"><StateMark is="waits" /> {{ count.held }} held</small>
      </template>
      <template v-else
        ><b>{{ time.day }}</b> {{ time.rest
        }}<small v-if="time.date && (root || rehearsing)" class="date" :class="{ gorse: time.weekend || time.holiday }"
          >{{ time.date }}<template v-if="time.holiday"><br />{{ time.holiday }}</template></small
        ></template
      >
    </div>
    <div v-if="root" class="who" :class="{ thrift: who.person }">{{ who.words }}</div>
    <div class="words serif">
      <template v-if="!root && who.person"
        ><span class="thrift">{{ who.words }}</span
        >{{ " " }}</template
      ><LineSentence :step="step" :after-name="!root && who.person" />
      <div v-for="why in shifts" :key="why" class="mark soft">{{ why }}</div>
      <div v-for="check in checks" :key="check.code + check.sentence" class="mark" :class="check.severity === 'error' ? 'rust' : 'gorse'">
        {{ check.severity === "error" ? "✕" : "▲" }} {{ check.sentence }}
        <button v-if="check.mend && script.mayWrite.value" class="link" :tabindex="selected ? 0 : -1" @click.stop="script.mend(check)">
          {{ check.mend.sentence }}
        </button>
        <kbd v-if="check.mend && selected"> Alt M</kbd>
      </div>
      <div v-if="rehearsing && script.uncovered.value.has(step.id)" class="mark gorse"><StateMark is="waits" /> no scenario comes here</div>
      <RehearsedBelow v-if="rehearsing" :step="step" />
    </div>
  </div>
</template>

<style scoped>
.gap {
  display: grid;
  grid-template-columns: 118px 1fr;
  font-size: 13px;
}
.gap > :first-child {
  text-align: right;
  padding: 3px 16px 3px 0;
  border-right: 1px dashed var(--rule);
}
.gap .still {
  padding: 3px 0 3px 100px;
}
.line {
  position: relative;
  outline-offset: -2px;
}
.line.root {
  display: grid;
  grid-template-columns: 118px 100px 1fr;
  align-items: baseline;
  padding: 5px 0;
  font-size: 17px;
}
.line.at {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--gorse);
}
.number {
  display: block;
  margin-left: auto;
  min-height: 24px;
  min-width: 24px;
}
.number.passed,
.number.left {
  color: var(--soft);
}
.number[aria-pressed="true"] {
  color: var(--ink);
  font-weight: 600;
}
.line.chosen {
  background: var(--mist);
}
.line.selected {
  background: var(--mist);
  box-shadow: -3px 0 0 var(--sea);
}
.line:not(.root) {
  padding: 3px 6px;
  margin: 0 -6px;
  font-size: 15.5px;
}
.line:not(.root) .time {
  float: right;
  padding-left: 10px;
  font-size: 12.5px;
}
.line:not(.root) .time b {
  font-weight: 400;
}
.root > .time {
  text-align: right;
  padding: 5px 16px 5px 0;
  margin: -5px 0;
  border-right: 1px solid var(--rule);
  align-self: stretch;
}
.line:not(.root) .time.numbers {
  float: none;
  display: flex;
  gap: 10px;
  justify-content: flex-end;
}
.line:not(.root) .number {
  margin: 0;
}
.time {
  font: 14px/1.5 var(--sans);
  color: var(--soft);
}
.date {
  display: block;
  font-size: 12.5px;
  line-height: 1.2;
}
.line:not(.root) .date {
  display: inline;
  padding-left: 5px;
}
.time b {
  font-weight: 600;
  color: var(--ink);
}
.line.quiet .time b {
  font-weight: 400;
  color: var(--soft);
}
.line.quiet .words {
  color: var(--soft);
}
.who {
  font-size: 12.5px;
  color: var(--soft);
  padding-left: 14px;
}
.who.thrift {
  color: var(--thrift);
  font-weight: 600;
}
.words {
  overflow-wrap: break-word;
  min-width: 0;
}
.mark {
  font: 13.5px/1.4 var(--sans);
  margin-top: 1px;
}
.dim > .time b,
.dim > .who,
.dim > .words {
  color: var(--soft);
}
@media (max-width: 760px) {
  .line.root {
    grid-template-columns: 84px 1fr;
  }
  .gap {
    grid-template-columns: 84px 1fr;
  }
  .gap .still {
    padding-left: 0;
  }
  .who {
    display: none;
  }
}
</style>
