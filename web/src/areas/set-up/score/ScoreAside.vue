<script setup lang="ts">
/** Before it counts: who would move past which mark, what would start for them and whether it should; then the act. While everybody is
 * counted anew, how far it is. */
import { computed, ref, watch } from "vue";

import type { Schemas } from "@/api/client";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import { many, number } from "@/ui/words";

const props = defineProps<{ score: Schemas["ScoreOut"]; found: Schemas["ComparedOut"]; may: boolean; pending: boolean }>();
const emit = defineEmits<{ count: [starts: number[]]; stop: [] }>();
const drafted = computed(() => props.score.revision > 0);
const order = computed(() => ["", ...[...props.score.rules.marks].sort((a, b) => a.at_least - b.at_least).map((one) => one.name)]);
const place = (name: string) => order.value.indexOf(name);
const moves = computed(() =>
  props.found.moves
    .filter((one) => one.before !== one.after)
    .map((one) => ({ ...one, up: place(one.after) > place(one.before) }))
    .sort((a, b) => Number(b.up) - Number(a.up) || place(b.after) - place(a.after)),
);
const stay = computed(() => props.found.moves.filter((one) => one.before === one.after).reduce((sum, one) => sum + one.count, 0));
const all = computed(() => props.found.moves.reduce((sum, one) => sum + one.count, 0));
const words = (one: { after: string; before: string; up: boolean }) =>
  one.up ? `↑ rise to ${one.after}` : `↓ fall below ${one.before}${one.after ? `, to ${one.after}` : ""}`;
const COLUMNS: Column[] = [
  { key: "who", label: "Who moves", heads: true },
  { key: "people", label: "People", num: true },
];
const rows = computed(() => [
  ...moves.value.map((one) => ({ who: words(one), people: number(one.count), soft: false })),
  { who: "stay where they are", people: number(stay.value), soft: true },
  { who: "in all", people: number(all.value), soft: false },
]);
const shown = ref(5);
/** Of the workflows that would start: those that are to. Until it is said, none of them. */
const should = ref<Record<number, boolean | undefined>>({});
watch(
  () => props.score.revision,
  () => (should.value = {}),
);
const starting = computed(() => props.found.starts.filter((one) => one.count));
const open = computed(() => starting.value.filter((one) => should.value[one.workflow] === undefined));
const running = computed(() => props.score.recount?.state === "running");
</script>

<template>
  <aside>
    <template v-if="running && score.recount">
      <h2>Being counted anew</h2>
      <p>
        {{ number(score.recount.done) }} of {{ many(score.recount.total, "person", "people") }}, {{ number(score.recount.moved) }} came to
        another mark. Sending goes on.
      </p>
      <BProgress :value="score.recount.done" :max="Math.max(1, score.recount.total)" aria-label="How far it is" />
      <BButton v-if="may" variant="link" :disabled="pending" @click="emit('stop')">Stop it</BButton>
    </template>
    <template v-else-if="drafted">
      <h2>Before it counts</h2>
      <DataTable caption="Who moves past which mark" :rows="rows" :columns="COLUMNS" :row-class="(row) => row.soft && 'soft'" />
      <ul>
        <li v-for="one in found.who.slice(0, shown)" :key="one.id">
          <RouterLink :to="{ name: 'contact', params: { contact: one.id } }">{{ one.name }}</RouterLink><span class="fig"
            ><span class="soft">{{ one.before }} →</span> {{ one.after }}</span
          >
        </li>
      </ul>
      <p v-if="found.who.length > shown">
        <BButton variant="link" class="small" @click="shown = 200">all {{ found.who.length }} who move</BButton>
      </p>
      <div v-for="one in starting" :key="one.workflow" class="q">
        <p class="serif">
          <RouterLink :to="{ name: 'workflow', params: { workflow: one.workflow } }">{{ one.name }}</RouterLink> would start for
          {{ number(one.count) }}.
        </p>
        <p :class="should[one.workflow] === undefined ? 'thrift' : 'soft'">
          <b>Should it?</b>
          <BButton
            variant="link"
            :aria-pressed="should[one.workflow] === true"
            :aria-label="`For all ${one.count}: ${one.name}`"
            @click="should[one.workflow] = true"
            >For all {{ one.count }}</BButton
          >
          <BButton
            variant="link"
            :aria-pressed="should[one.workflow] === false"
            :aria-label="`For none of them: ${one.name}`"
            @click="should[one.workflow] = false"
            >For none of them</BButton
          >
        </p>
      </div>
      <p v-for="fault in score.faults" :key="fault" class="gorse small">{{ fault }}</p>
      <p v-if="open.length" class="small soft">Say first whether {{ open.map((one) => one.name).join(" and ") }} should start.</p>
      <BButton
        v-if="may"
        variant="primary"
        class="go"
        :disabled="pending || score.faults.length > 0 || open.length > 0"
        @click="
          emit(
            'count',
            starting.filter((one) => should[one.workflow]).map((one) => one.workflow),
          )
        "
        >Let it count for {{ number(found.people) }}</BButton
      >
      <p class="small soft">Sending goes on. The rules that counted stay in “As it was”.</p>
    </template>
    <template v-else>
      <h2>As it stands</h2>
      <p class="soft">Change a rule, its points or a mark: here it says who would move, and nothing counts until you let it.</p>
      <p v-if="score.recount" class="small soft">
        Counted anew {{ score.recount.asked }}: {{ number(score.recount.done) }} of {{ number(score.recount.total) }},
        {{ number(score.recount.moved) }} came to another mark{{ score.recount.state === "stopped" ? "; it was stopped" : "" }}.
      </p>
    </template>
  </aside>
</template>

<style scoped>
aside {
  border-left: 1px solid var(--rule);
  padding-left: 22px;
}
h2 {
  margin: 4px 0 6px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: flex;
  font-size: 14.5px;
  padding: 2px 0;
  min-height: 28px;
}
ul + p {
  margin-top: 4px;
  min-height: 28px;
}
.fig {
  margin-left: auto;
}
.q {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
.q p {
  margin: 0;
}
.go {
  width: 100%;
  margin-top: 10px;
}
[aria-pressed="true"] {
  font-weight: 600;
  text-decoration: none;
  border-bottom: 2px solid var(--ink);
}
@media (max-width: 980px) {
  aside {
    border: 0;
    padding: 0;
  }
}
</style>
