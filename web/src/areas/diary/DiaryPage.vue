<script setup lang="ts">
/** The diary: what will go out by itself, day by day, beside the team's tasks and appointments. Month, week or list. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useRead } from "@/queries/account";
import { type Schemas } from "@/api/client";
import { useAccountDetails } from "@/queries/session";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import StateMark from "@/ui/StateMark.vue";
import PageHead from "@/ui/PageHead.vue";
import { elementOf } from "@/ui/events";

type Shape = "month" | "week" | "list";
const { data: details } = useAccountDetails();
const route = useRoute();
const router = useRouter();
const shape = ref<Shape>((["month", "week", "list"] as const).find((one) => one === route.query.as) ?? "week");
const at = ref(String(route.query.day ?? ""));
const workflow = ref(0);
watch([shape, at], () => router.replace({ query: { as: shape.value, ...(at.value && { day: at.value }) } }));

/** Days are handled as UTC midnights, so that no zone of the browser's moves them. */
const DAY = 86_400_000;
const iso = (time: number) => new Date(time).toISOString().slice(0, 10);
const today = computed(() => details.value?.local_now.slice(0, 10) ?? "");
const day = computed(() => Date.parse(at.value || today.value || "2026-01-01"));
const monday = (time: number) => time - ((new Date(time).getUTCDay() + 6) % 7) * DAY;
const span = computed(() => {
  if (shape.value === "week") return { start: monday(day.value), days: 7 };
  if (shape.value === "list") return { start: day.value, days: 14 };
  const first = new Date(day.value);
  const begin = monday(Date.UTC(first.getUTCFullYear(), first.getUTCMonth(), 1));
  const last = Date.UTC(first.getUTCFullYear(), first.getUTCMonth() + 1, 0);
  return { start: begin, days: Math.round((monday(last) + 7 * DAY - begin) / DAY) };
});
const { data, isPlaceholderData, ...reading } = useRead(
  "/diary",
  () => ({ query: { start: iso(span.value.start), days: span.value.days, ...(workflow.value && { workflow: workflow.value }) } }),
  { live: true, enabled: () => today.value !== "", placeholderData: keepPreviousData },
);
const { data: workflows, ...workflowsRead } = useRead("/workflows");
function go(by: number) {
  const now = new Date(day.value);
  at.value =
    shape.value === "month"
      ? iso(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() + by, 1))
      : iso(day.value + by * (shape.value === "week" ? 7 : 14) * DAY);
}
function onKey(event: KeyboardEvent) {
  if (elementOf(event)?.closest("input, select")) return;
  if (event.key === "ArrowLeft") go(-1);
  else if (event.key === "ArrowRight") go(1);
  else if (event.key === "t") at.value = "";
  else return;
  event.preventDefault();
}
const FORM = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
const MONTH = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });
const title = computed(() =>
  shape.value === "month"
    ? MONTH.format(day.value)
    : `${FORM.format(span.value.start)} to ${FORM.format(span.value.start + (span.value.days - 1) * DAY)}`,
);
const isOther = (one: string) => shape.value === "month" && new Date(one).getUTCMonth() !== new Date(day.value).getUTCMonth();

/** In the month: one line a workflow and channel; else every message by its name. */
function lines(one: Schemas["DiaryDay"]) {
  if (shape.value !== "month") return one.outlook.map((row) => ({ ...row, words: row.name }));
  const found = new Map<string, Schemas["OutlookRow"] & { words: string }>();
  for (const row of one.outlook) {
    const key = `${row.workflow_id} ${row.channel}`;
    const known = found.get(key);
    if (known) known.count += row.count;
    else found.set(key, { ...row, words: row.workflow });
  }
  return [...found.values()];
}
const oneOf = (what: string) => details.value?.channels.find((channel) => channel.name === what)?.one ?? what;
const total = computed(
  () =>
    data.value?.days
      .flatMap((one) => one.outlook)
      .filter((row) => row.channel)
      .reduce((sum, row) => sum + row.count, 0) ?? 0,
);
const COLOURS: Record<string, string> = {
  sea: "var(--sea)",
  thrift: "var(--thrift)",
  gorse: "var(--gorse)",
  kelp: "var(--kelp)",
  rust: "var(--rust)",
  ink: "var(--ink)",
};
const shown = computed(
  () =>
    data.value?.days.filter(
      (one) => shape.value !== "list" || one.outlook.length || one.items.length || one.sent || one.day === today.value,
    ) ?? [],
);
</script>

<template>
  <div class="page" tabindex="-1" @keydown="onKey">
    <PageHead title="Diary" :about="title"
      ><template #beside
        ><BButton variant="outline-primary" aria-label="Earlier" @click="go(-1)">←</BButton>
        <BButton variant="outline-primary" :disabled="!at" @click="at = ''">today</BButton>
        <BButton variant="outline-primary" aria-label="Later" @click="go(1)">→</BButton></template
      >
      <FormRow label="Of which workflow" hides-label
        ><BFormSelect v-model="workflow"
          ><option :value="0">all workflows</option>
          <option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <span role="group" aria-label="Shape"
        ><BButton
          v-for="one in ['month', 'week', 'list'] as const"
          :key="one"
          variant="link"
          class="day"
          :aria-pressed="shape === one"
          @click="shape = one"
          >{{ one }}</BButton
        ></span
      ></PageHead
    >
    <ReadState :of="[reading, workflowsRead]" what="The diary">
      <p class="soft small lead-in">
        {{ total ? many(total, "message goes out by itself", "messages go out by themselves") : "Nothing goes out by itself" }}, as things
        stand and if nobody answers. Tasks and appointments are those there are already.<span v-if="data?.left_out" class="gorse">
          ▲ {{ many(data.left_out, "person is", "people are") }} left out of the forecast: too many different places.</span
        >
      </p>
      <div class="days" :class="[shape, { stale: isPlaceholderData }]" role="list">
        <section
          v-for="one in shown"
          :key="one.day"
          role="listitem"
          class="date"
          :class="{ today: one.day === today, past: one.day < today, other: isOther(one.day) }"
          :aria-label="FORM.format(Date.parse(one.day))">
          <h2 :class="{ gorse: one.holiday }">
            {{ FORM.format(Date.parse(one.day)) }}<small v-if="one.day === today"> · today</small
            ><small v-if="one.holiday"> · {{ one.holiday }}</small>
          </h2>
          <p v-if="one.sent" class="kelp small"><StateMark is="done" /> {{ one.sent }} sent</p>
          <p
            v-for="row in lines(one)"
            :key="`${row.workflow_id}${row.channel}${row.words}`"
            class="out"
            :style="{ borderColor: COLOURS[row.colour] ?? 'var(--rule)' }">
            <span class="small soft">{{ row.at }}</span>
            <span :class="{ thrift: !row.channel }">{{ many(row.count, oneOf(row.channel || "task")) }}</span>
            <RouterLink class="serif" :to="{ name: 'workflow', params: { workflow: row.workflow_id } }" :title="row.workflow">{{
              row.words
            }}</RouterLink>
          </p>
          <p v-if="shape === 'month' && one.items.length > 2" class="item">
            <BButton variant="link" @click="((at = one.day), (shape = 'list'))">{{
              many(one.items.length, "task or appointment", "tasks and appointments")
            }}</BButton>
          </p>
          <p v-for="(item, index) in shape === 'month' && one.items.length > 2 ? [] : one.items" :key="index" class="item">
            <span class="small soft">{{ item.at }}</span>
            <span :class="item.kind === 'appointment' ? 'sea' : 'thrift'">{{ item.kind === "to_do" ? "to-do" : item.kind }}</span>
            <RouterLink :to="{ name: 'contact', params: { contact: item.contact_id } }">{{ item.contact }}</RouterLink>
            <span class="small soft">{{ item.title }}</span>
            <small v-if="item.unwanted" class="rust"><StateMark is="failed" /> {{ item.unwanted }}</small>
          </p>
          <p v-if="shape !== 'month' && !one.outlook.length && !one.items.length && !one.sent" class="soft small">nothing</p>
        </section>
      </div>
    </ReadState>
  </div>
</template>

<style scoped>
.page:focus {
  outline: none;
}
.lead-in {
  margin: 8px 0 14px;
}
.days {
  border-top: 1px solid var(--ink);
}
.month,
.week {
  display: grid;
  grid-template-columns: repeat(7, minmax(0, 1fr));
}
.month .date,
.week .date {
  border-right: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
  padding: 6px 8px 10px;
  min-height: 96px;
}
.week .date {
  min-height: 62vh;
}
.list .date {
  display: block;
  border-bottom: 1px solid var(--rule);
  padding: 9px 0;
  max-width: 46em;
}
.date h2 {
  font: 600 13px var(--sans);
  margin-bottom: 4px;
}
.date h2 small {
  font-weight: 400;
}
.today {
  background: var(--mist);
  box-shadow: inset 0 2px 0 var(--sea);
}
.list .today {
  padding-left: 10px;
  margin-left: -10px;
  box-shadow: inset 3px 0 0 var(--sea);
}
.other h2,
.past h2 {
  color: var(--soft);
}
.out,
.item {
  margin: 3px 0;
  font-size: 14px;
  line-height: 1.35;
  overflow-wrap: anywhere;
}
.out {
  border-left: 3px solid var(--rule);
  padding-left: 6px;
}
.item {
  padding-left: 9px;
}
.sea {
  color: var(--sea);
}
@media (max-width: 760px) {
  .month,
  .week {
    display: block;
  }
  .month .date,
  .week .date {
    min-height: 0;
    border-right: 0;
  }
}
</style>
