<script setup lang="ts">
/** The diary: appointments by day, week or month, and as a list, day by day, all of it: what will go out by itself, the team's tasks, and
 * appointments. */
import { keepPreviousData } from "@tanstack/vue-query";
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useMay, useRead } from "@/queries/account";
import { type Schemas } from "@/api/client";
import { useAccountDetails } from "@/queries/session";
import { many } from "@/ui/words";
import ReadState from "@/ui/ReadState.vue";
import FormRow from "@/ui/FormRow.vue";
import PageHead from "@/ui/PageHead.vue";
import { elementOf } from "@/ui/events";
import type { Moved } from "./CalendarGrid.vue";
import DayList from "./DayList.vue";

const CalendarGrid = defineAsyncComponent(() => import("./CalendarGrid.vue"));
const EntryAsk = defineAsyncComponent(() => import("./EntryAsk.vue"));
const AwayAsk = defineAsyncComponent(() => import("./AwayAsk.vue"));
const BookAsk = defineAsyncComponent(() => import("@/shared/booking/BookAsk.vue"));
const SHAPES = ["day", "week", "month", "list"] as const;
type Shape = (typeof SHAPES)[number];
const { data: details } = useAccountDetails();
const may = useMay();
const route = useRoute();
const router = useRouter();
const shape = ref<Shape>(SHAPES.find((one) => one === route.query.as) ?? "week");
const at = ref(String(route.query.day ?? ""));
const workflow = ref(0);
const member = ref(0);
watch([shape, at], () => router.replace({ query: { as: shape.value, ...(at.value && { day: at.value }) } }));

/** Days are handled as UTC midnights, so that no zone of the browser's moves them. */
const DAY = 86_400_000;
const iso = (time: number) => new Date(time).toISOString().slice(0, 10);
const today = computed(() => details.value?.local_now.slice(0, 10) ?? "");
const day = computed(() => Date.parse(at.value || today.value || "2026-01-01"));
const monday = (time: number) => time - ((new Date(time).getUTCDay() + 6) % 7) * DAY;
const span = computed(() => {
  if (shape.value === "day") return { start: day.value, days: 1 };
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
const { data: calendar, ...calendarRead } = useRead(
  "/calendar",
  () => ({ query: { start: iso(span.value.start), days: span.value.days, ...(member.value && { member: member.value }) } }),
  { live: true, enabled: () => today.value !== "", placeholderData: keepPreviousData },
);
const { data: workflows, ...workflowsRead } = useRead("/workflows");
function go(by: number) {
  const now = new Date(day.value);
  at.value =
    shape.value === "month"
      ? iso(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() + by, 1))
      : iso(day.value + by * { day: 1, week: 7, list: 14 }[shape.value] * DAY);
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
    : shape.value === "day"
      ? FORM.format(day.value)
      : `${FORM.format(span.value.start)} to ${FORM.format(span.value.start + (span.value.days - 1) * DAY)}`,
);
const total = computed(
  () =>
    data.value?.days
      .flatMap((one) => one.outlook)
      .filter((row) => row.channel)
      .reduce((sum, row) => sum + row.count, 0) ?? 0,
);
/** What is open over the page: an appointment, or a class; a time that was pointed at; who cannot come. */
const opened = ref<Schemas["EntryOut"]>();
const moved = ref<Moved>();
const booking = ref<{ at?: string; member?: number }>();
const away = ref(false);
const now = computed(() => details.value?.local_now ?? "");
function open(entry: Schemas["EntryOut"], how?: Moved) {
  opened.value = entry;
  moved.value = how;
}
function shut(done = false) {
  if (!done) moved.value?.back();
  opened.value = moved.value = undefined;
}
function show(day: string) {
  at.value = day;
  shape.value = "list";
}
</script>

<template>
  <div class="page" tabindex="-1" @keydown="onKey">
    <PageHead title="Diary" :about="title"
      ><template #beside
        ><BButton variant="outline-primary" aria-label="Earlier" @click="go(-1)">←</BButton>
        <BButton variant="outline-primary" :disabled="!at" @click="at = ''">today</BButton>
        <BButton variant="outline-primary" aria-label="Later" @click="go(1)">→</BButton></template
      >
      <FormRow v-if="shape === 'list'" label="Of which workflow" hides-label
        ><BFormSelect v-model="workflow"
          ><option :value="0">all workflows</option>
          <option v-for="one in workflows" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <FormRow v-else-if="(calendar?.members.length ?? 0) > 1" label="Whose appointments" hides-label
        ><BFormSelect v-model="member"
          ><option :value="0">of everybody</option>
          <option v-for="one in calendar?.members" :key="one.id" :value="one.id">{{ one.name }}</option></BFormSelect
        ></FormRow
      >
      <span role="group" aria-label="Shape"
        ><BButton v-for="one in SHAPES" :key="one" variant="link" class="day" :aria-pressed="shape === one" @click="shape = one">{{
          one
        }}</BButton></span
      >
      <template v-if="may('people')">
        <BButton variant="primary" @click="booking = {}">Book…</BButton>
        <BButton v-if="calendar?.members.length" variant="link" @click="away = true">Somebody cannot come…</BButton>
      </template></PageHead
    >
    <ReadState :of="[reading, workflowsRead, calendarRead]" what="The diary">
      <p class="soft small lead-in">
        {{ total ? many(total, "message goes out by itself", "messages go out by themselves") : "Nothing goes out by itself" }}, as things
        stand and if nobody answers.<span v-if="data?.left_out" class="gorse">
          ▲ {{ many(data.left_out, "person is", "people are") }} left out of the forecast: too many different places.</span
        ><span v-if="calendar?.cut" class="gorse"> ▲ There are more appointments than are shown: choose somebody, or fewer days.</span>
      </p>
      <DayList v-if="shape === 'list'" :days="data?.days ?? []" :today="today" :class="{ stale: isPlaceholderData }" />
      <CalendarGrid
        v-else
        :shape="shape"
        :day="iso(day)"
        :calendar="calendar"
        :outlook="data?.days"
        :may="may('people')"
        :now="now"
        @open="open($event)"
        @moved="open($event.entry, $event)"
        @book="(when, who) => (booking = { at: when, ...(who && { member: who }) })"
        @day="show" />
    </ReadState>
    <EntryAsk
      v-if="opened"
      :key="opened.key"
      :entry="calendar?.entries.find((one) => one.key === opened?.key) ?? opened"
      :members="calendar?.members ?? []"
      :now="now"
      :may-move="may('people')"
      :may-settle="may('tasks')"
      :to="moved"
      @close="shut()"
      @done="shut(true)" />
    <BookAsk v-if="booking" v-bind="booking" @close="booking = undefined" @done="booking = undefined" />
    <AwayAsk v-if="away" :members="calendar?.members ?? []" :day="at || today" @close="away = false" @done="away = false" />
  </div>
</template>

<style scoped>
.page:focus {
  outline: none;
}
.lead-in {
  margin: 8px 0 14px;
}
</style>
