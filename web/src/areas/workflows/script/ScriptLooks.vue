<script setup lang="ts">
/** The three ways of looking at a script, as a list of tabs, and how long and how much it is. */
import { computed, nextTick } from "vue";

import type { Schemas } from "@/api/client";
import type { useRehearsal } from "@/areas/workflows/rehearse/useRehearsal";
import MomentInPlace from "@/ui/MomentInPlace.vue";
import StateMark from "@/ui/StateMark.vue";
import { many } from "@/ui/words";
import { useScript, type Look } from "./script";

const props = defineProps<{ reading?: Schemas["ReadOut"]; rehearsal: ReturnType<typeof useRehearsal> }>();
const startAt = defineModel<string>("start", { required: true });
const { look, select } = useScript();
const { scenarios, verdicts, failing } = props.rehearsal;
const LOOKS: [Look, string][] = [
  ["write", "Write"],
  ["rehearse", "Rehearse"],
  ["watch", "Watch"],
];
const days = computed(() => props.reading?.reading.days ?? 0);
const touches = computed(() => props.reading?.reading.touches ?? 0);
/** The arrows go from one way of looking to the next, as along any list of tabs. */
function onKey(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  const names = LOOKS.map(([name]) => name);
  const next =
    event.key === "Home"
      ? names[0]
      : event.key === "End"
        ? names.at(-1)
        : by && names[(names.indexOf(look.value) + by + names.length) % names.length];
  if (!next) return;
  event.preventDefault();
  event.stopPropagation();
  look.value = next;
  void nextTick(() => document.getElementById(`look-${next}`)?.focus());
}
</script>

<template>
  <div class="looks" @click.stop>
    <div role="tablist" aria-label="Ways to look at it">
      <BButton
        v-for="[name, words] in LOOKS"
        :id="`look-${name}`"
        :key="name"
        variant="link"
        role="tab"
        :aria-selected="look === name"
        aria-controls="script"
        :tabindex="look === name ? 0 : -1"
        :class="{ on: look === name }"
        @click="look = name"
        @keydown="onKey"
        >{{ words }}</BButton
      >
    </div>
    <span class="soft small counts">
      <template v-if="look === 'write'">as if joining <MomentInPlace v-model="startAt" label="as if joining at" /> · </template>
      <template v-if="reading"
        ><span :class="{ gorse: reading.longest_days && days > reading.longest_days }"
          >{{ many(days, "day") }}<template v-if="reading.longest_days"> of {{ reading.longest_days }}</template></span
        >,
        <span :class="{ gorse: reading.most_touches && touches > reading.most_touches }"
          >{{ many(touches, "touch", "touches") }}<template v-if="reading.most_touches"> of {{ reading.most_touches }}</template></span
        >, {{ many(reading.reading.lines.length, "line")
        }}<template v-if="reading.reading.checks.length">
          · <BButton variant="link" @click="select('')">{{ many(reading.reading.checks.length, "check") }}</BButton></template
        ></template
      >
      <template v-if="scenarios.length && verdicts">
        ·
        <BButton variant="link" :class="{ rust: failing.length }" @click="look = 'rehearse'"
          ><StateMark :is="failing.length ? 'failed' : 'done'" />
          {{
            failing.length
              ? `${failing.length} of ${many(scenarios.length, "scenario")} ${failing.length === 1 ? "fails" : "fail"}`
              : many(scenarios.length, "scenario holds", "scenarios hold")
          }}</BButton
        ></template
      >
    </span>
  </div>
</template>

<style scoped>
.looks {
  display: flex;
  align-items: baseline;
  gap: 22px;
  border-bottom: 1px solid var(--rule);
  margin-bottom: 6px;
  flex-wrap: wrap;
}
[role="tablist"] {
  display: flex;
  gap: 22px;
}
[role="tab"] {
  background: none;
  border: 0;
  padding: 4px 0 6px;
  color: var(--soft);
  font-weight: 400;
  font-size: 15px;
  border-radius: 0;
}
[role="tab"].on {
  color: var(--ink);
  font-weight: 600;
  box-shadow: 0 2px 0 var(--ink);
}
.counts {
  margin-left: auto;
}
.counts :deep(input) {
  font-size: 13.5px;
  padding: 1px 4px;
}
</style>
