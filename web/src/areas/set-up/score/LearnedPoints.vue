<script setup lang="ts">
/** Points learned from what became of people, beside those set by hand, and how good both are on people held back. They are offered, and
 * taken into the draft by whoever asks for it. */
import { computed, ref } from "vue";

import { useRead } from "@/queries/account";
import WordPart from "@/shared/settings/WordPart.vue";
import type { Column } from "@/ui/columns";
import DataTable from "@/ui/DataTable.vue";
import ReadState from "@/ui/ReadState.vue";
import { many } from "@/ui/words";
import { signed } from "./rules";

const props = defineProps<{ of: string; may: boolean; pending: boolean }>();
const emit = defineEmits<{ take: [points: Record<string, number>] }>();
const outcome = ref<"booked" | "won">("booked");
const horizon = ref(30);
const asked = computed(() => ({ query: { outcome: outcome.value, horizon: horizon.value, of: props.of } }));
const { data: found, ...reading } = useRead("/score/learned", asked);
const two = (value: number) => value.toFixed(2);
const tenth = (points: number) => Math.round(points * 10) / 10;
const between = (one: { value: number; low: number; high: number }) => `${two(one.value)} (${two(one.low)} to ${two(one.high)})`;
const percent = (one: number) => `${Math.round(one * 100)} %`;
const RULES: Column[] = [
  { key: "name", label: "Rule", heads: true, class: "serif" },
  { key: "by_hand", label: "By hand", num: true },
  { key: "learned", label: "Learned", num: true },
];
const PARTS: Column[] = [
  { key: "said", label: "Said", num: true, heads: true },
  { key: "came", label: "Came", num: true },
];
function choose(value: string) {
  outcome.value = value === "won" ? "won" : "booked";
}
function take() {
  const points = found.value?.rules.filter((one) => one.learned !== null).map((one) => [one.name, Math.round(one.learned ?? 0)] as const);
  emit("take", Object.fromEntries(points ?? []));
}
</script>

<template>
  <p class="sum">
    What leads people to have
    <WordPart
      :value="outcome"
      label="What became of them"
      :choices="[
        { value: 'booked', words: 'booked' },
        { value: 'won', words: 'bought (a deal won)' },
      ]"
      @keep="choose" />
    within
    <WordPart
      :value="horizon"
      type="number"
      label="Within so many days"
      :least="7"
      :most="365"
      @keep="horizon = Math.min(365, Math.max(7, Number($event) || 30))" />
    days?
  </p>
  <ReadState :of="reading" what="What was learned">
    <template v-if="found">
      <p v-if="found.more" class="gorse">
        There are too few to learn from: {{ many(found.reached, "person", "people") }} of the rarer sort (who did, or who did not). With
        {{ many(found.more, "more", "more") }} it can be said; ten for each rule is common practice.
      </p>
      <template v-else-if="found.learned && found.by_hand && found.better">
        <p>
          Of two people, one who did and one who did not, the learned points put the right one higher in
          <b>{{ between(found.learned.auc) }}</b> of cases, those set by hand in {{ between(found.by_hand.auc) }}: a difference of
          {{ between(found.better) }}. The best fifth does it {{ between(found.learned.lift) }} times as often as all, by hand
          {{ between(found.by_hand.lift) }}. Measured on {{ many(found.held_back, "person", "people") }} of {{ found.people }} that nothing
          was learned from, each with its 95 % interval.
        </p>
        <p v-if="found.better.low <= 0" class="gorse">It may as well be luck: the difference can be none.</p>
      </template>
      <DataTable caption="Points by hand and learned" :rows="found.rules" :columns="RULES">
        <template #name="{ item }"
          >{{ item.name }}<small v-if="item.refused" class="soft"> not learned from: {{ item.refused }}</small></template
        >
        <template #by_hand="{ item }">{{ signed(item.by_hand) }}</template>
        <template #learned="{ item }">{{ item.learned === null ? "–" : signed(tenth(item.learned)) }}</template>
      </DataTable>
      <template v-if="found.calibration.length">
        <h3>Does it come as often as it is said?</h3>
        <DataTable caption="How often it was said to come, and how often it came" :rows="found.calibration" :columns="PARTS">
          <template #said="{ item }">{{ percent(item.said) }}</template>
          <template #came="{ item }"
            >{{ percent(item.came.value) }}, {{ percent(item.came.low) }} to {{ percent(item.came.high) }}</template
          >
        </DataTable>
      </template>
      <p v-if="may && found.learned">
        <BButton variant="outline-primary" :disabled="pending" @click="take">Take these points into the draft</BButton>
        <span class="soft small"> Nothing counts by that yet.</span>
      </p>
    </template>
  </ReadState>
</template>

<style scoped>
.sum {
  font: 17px/1.5 var(--serif);
  margin: 10px 0 4px;
}
h3 {
  margin: 16px 0 4px;
}
</style>
