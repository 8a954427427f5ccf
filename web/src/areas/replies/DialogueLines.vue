<script setup lang="ts">
/** What was said, as a dialogue: the day, the time, who, and their words. */
import { computed, ref } from "vue";

import type { Schemas } from "@/api/client";
import StateMark from "@/ui/StateMark.vue";
import { clockTime, dayOf } from "@/ui/words";

type Said = Schemas["SaidOut"];
const props = defineProps<{ said: Said[]; account: string }>();
/** What we wrote at length is shown by its beginning; what they wrote always whole. */
const whole = ref(new Set<string>());
const isLong = (one: Said) => one.of !== "contact" && (one.text.length > 320 || one.text.split("\n").length > 6);
function turn(one: Said) {
  if (!whole.value.delete(one.key)) whole.value.add(one.key);
}
const days = computed(() => {
  const found: { day: string; lines: Said[] }[] = [];
  for (const one of props.said) {
    const day = dayOf(one.local);
    if (found.at(-1)?.day !== day) found.push({ day, lines: [] });
    found.at(-1)?.lines.push(one);
  }
  return found;
});
const BY: Record<string, string> = {
  word: "answered by what the word does",
  rule: "answered by a rule",
  workflow: "answered by a workflow",
  assistant: "answered by the assistant",
};
const who = (one: Said) =>
  one.of === "assistant" ? "Assistant" : ["workflow", "account", "word"].includes(one.of) ? props.account : one.who;
const FAILED: Record<string, string> = { failed: "did not arrive", uncertain: "may not have gone", held: "is held" };
</script>

<template>
  <div class="dialogue">
    <template v-for="group in days" :key="group.day">
      <h3>{{ group.day }}</h3>
      <div v-for="one in group.lines" :key="one.key" class="line" :class="[one.of, { coming: one.to_come }]">
        <span class="ruler small" :class="one.to_come ? 'gorse' : 'soft'">{{ one.to_come ? "at " : "" }}{{ clockTime(one.local) }}</span>
        <span class="small who" :class="one.of === 'contact' ? '' : 'soft'">{{ who(one) }}</span>
        <div class="words">
          <p v-if="one.subject" class="small soft">{{ one.subject }}</p>
          <p class="serif text" :class="{ cut: isLong(one) && !whole.has(one.key) }">{{ one.text }}</p>
          <BButton v-if="isLong(one)" variant="link" class="small" :aria-expanded="whole.has(one.key)" @click="turn(one)">{{
            whole.has(one.key) ? "less of it" : "all of it"
          }}</BButton>
          <p class="small soft">
            <template v-if="one.of === 'note'">a note for the team</template>
            <template v-else-if="['workflow', 'assistant'].includes(one.of) && one.workflow"
              >{{ one.channel }}, sent by
              <RouterLink :to="{ name: 'workflow', params: { workflow: one.workflow } }">{{ one.who }}</RouterLink></template
            >
            <template v-else>{{ one.channel }}</template><template v-if="one.answered_by">, {{ BY[one.answered_by] }}</template
            ><template v-if="one.automatic">, an automatic answer</template
            ><span v-if="one.opted_out" class="rust">, <StateMark is="failed" /> wants no more {{ one.channel }}s</span
            ><span v-if="one.likely_out" class="thrift">, <StateMark is="look" /> may want no more</span>
            <span v-if="one.to_come && one.state === 'queued'" class="gorse">, <StateMark is="waits" /> goes then</span>
            <span v-if="FAILED[one.state]" class="rust">, <StateMark is="failed" /> {{ FAILED[one.state] }}: {{ one.reason }}</span>
          </p>
        </div>
      </div>
    </template>
  </div>
</template>

<style scoped>
h3 {
  font: 600 14px var(--sans);
  width: 76px;
  text-align: right;
  margin: 14px 0 6px;
  white-space: nowrap;
}
.line {
  display: grid;
  grid-template-columns: 76px 92px minmax(0, 1fr);
  column-gap: 14px;
}
.ruler {
  text-align: right;
  padding-top: 4px;
}
.who {
  padding-top: 4px;
  overflow-wrap: anywhere;
}
.contact .who {
  font-weight: 600;
}
.words {
  border-left: 2px solid var(--sea);
  padding: 0 0 10px 14px;
}
.contact .words {
  border-left-color: var(--thrift);
}
.note .words {
  border-left: 2px solid var(--rule);
  font-style: italic;
}
.coming .words {
  border-left-style: dashed;
  border-left-color: var(--gorse);
}
p {
  margin: 0;
}
.text {
  font-size: 17px;
  line-height: 1.4;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.cut {
  display: -webkit-box;
  -webkit-line-clamp: 4;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
@media (max-width: 760px) {
  h3 {
    text-align: left;
  }
  .line {
    grid-template-columns: auto 1fr;
  }
  .ruler {
    text-align: left;
  }
  .words {
    grid-column: 1 / -1;
  }
}
</style>
