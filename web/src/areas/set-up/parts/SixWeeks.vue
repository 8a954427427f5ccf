<script setup lang="ts">
/** Six weeks as a tide table: days run across, the hours of a day down; what is closed is marked with its reason. */
import { computed } from "vue";

import type { Schemas } from "@/api/client";
import { dayOf } from "@/ui/words";

type Day = Schemas["DayOut"];
const props = defineProps<{ days: Day[]; today: string; quiet: readonly Schemas["QuietHours"][] }>();

const minutes = (time = "00:00") => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));
const spans = computed(() => props.days.flatMap((day) => day.hours.map((one) => [minutes(one.start), minutes(one.end)] as const)));
/** The hours that are drawn: those that are open, with two more above and below. */
const top = computed(() => Math.max(0, Math.floor(Math.min(480, ...spans.value.map(([start]) => start)) / 60) * 60 - 120));
const bottom = computed(() => Math.min(1440, Math.ceil(Math.max(1080, ...spans.value.map(([, end]) => end)) / 60) * 60 + 120));
const place = (at: number) => ((Math.min(Math.max(at, top.value), bottom.value) - top.value) / (bottom.value - top.value)) * 100;
const at = (start: number, end: number) => ({ top: `${place(start)}%`, height: `${place(end) - place(start)}%` });
const marks = computed(() => [...Array(25).keys()].map((n) => n * 60).filter((m) => m > top.value && m < bottom.value && m % 240 === 0));
/** Quiet for everything; what is quiet for some alone is said below. */
const nights = computed(() =>
  props.quiet
    .filter((one) => (one.purposes?.length ?? 2) > 1 && (one.channels?.length ?? 9) > 5)
    .flatMap((one) => {
      const [start, end] = [minutes(one.start), minutes(one.end)];
      return start < end ? [[start, end] as const] : [[0, end] as const, [start, 1440] as const];
    })
    .filter(([start, end]) => place(end) > place(start)),
);
const weeks = computed(() => Array.from({ length: 6 }, (_, n) => props.days.slice(n * 7, n * 7 + 7)));
/** How many days wide a letter is, where a day is narrowest. */
const LETTER = 0.4;
const isOff = (day: Day) => !day.hours.length;
/** What is said below: reasons of a day, the first day of a reason alone. */
const notes = computed(() => {
  const ends = [-1, -1, -1, -1]; // where the last note of each row ends, in days
  return props.days
    .map((day, n) => ({ n, words: note(day) }))
    .filter(({ words, n }) => words && words !== note(props.days[n - 1]))
    .map(({ n, words }) => {
      const wide = words.length * LETTER + 0.5;
      const from = Math.min(n, 42 - wide);
      const free = ends.findIndex((end) => end <= from);
      const row = free < 0 ? 3 : free;
      ends[row] = from + wide;
      return { n, words, row, from };
    });
});
function note(day: Day | undefined): string {
  if (!day) return "";
  if (day.day === props.today) return "today";
  if (day.closed) return day.closed.replace(" (observed)", "");
  if (day.clocks) return `clocks go ${day.clocks > 0 ? "forward" : "back"}`;
  if (day.usual) return "";
  return day.hours.length ? `${day.hours.map((one) => `${one.start} to ${one.end}`).join(", ")} instead` : "closed instead";
}
const spoken = (day: Day) =>
  `${dayOf(day.day, props.today)}: ${day.hours.map((one) => `${one.start} to ${one.end}`).join(" and ") || `closed${day.closed ? `, ${day.closed}` : ""}`}`;
</script>

<template>
  <div class="weeks" role="group" aria-label="The next six weeks" tabindex="0">
    <div class="table">
      <div class="scale soft">
        <span v-for="one in marks" :key="one" :style="{ top: `${place(one)}%` }">{{ String(one / 60).padStart(2, "0") }}:00</span>
      </div>
      <ol>
        <li v-for="(week, n) in weeks" :key="n">
          <span class="from soft">{{ dayOf(week[0]?.day ?? "", today) }}</span>
          <ol class="days">
            <li v-for="day in week" :key="day.day" :class="{ past: day.day < today, now: day.day === today }">
              <span class="visually-hidden">{{ spoken(day) }}</span>
              <div class="hours" aria-hidden="true">
                <i v-for="[start, end] in nights" :key="start" class="quiet" :style="at(start, end)" />
                <i
                  v-for="one in day.hours"
                  :key="one.start"
                  class="open"
                  :class="{ other: !day.usual }"
                  :style="at(minutes(one.start), minutes(one.end))" />
                <b v-if="isOff(day)" :class="{ why: day.closed || !day.usual }">×</b>
              </div>
              <span class="letter" aria-hidden="true">{{ "MTWTFSS"[days.indexOf(day) % 7] }}</span>
            </li>
          </ol>
        </li>
      </ol>
      <div class="notes" aria-hidden="true">
        <span
          v-for="one in notes"
          :key="one.n"
          :class="{ now: one.words === 'today' }"
          :style="{ left: `${(one.from / 42) * 100}%`, top: `${one.row * 16}px` }"
          >{{ one.words }}</span
        >
      </div>
      <span v-if="nights.length" class="key gorse small">tinted: quiet</span>
    </div>
  </div>
</template>

<style scoped>
.weeks {
  overflow-x: auto;
  margin: 6px 0 4px;
}
.table {
  position: relative;
  min-width: 700px;
  padding-left: 44px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.table > ol {
  display: grid;
  grid-template-columns: repeat(6, 1fr);
}
.table > ol > li {
  border-left: 1px solid var(--rule);
}
.from {
  display: block;
  font-size: 13px;
  padding-left: 4px;
  height: 20px;
}
.days {
  display: grid;
  grid-template-columns: repeat(7, 1fr);
}
.hours {
  position: relative;
  height: 96px;
}
.hours i {
  position: absolute;
  left: 0;
  right: 0;
}
.quiet {
  background: #f3ecd8;
}
.hours .open {
  left: 15%;
  right: 15%;
  background: #bdd3d1;
  border-top: 2px solid var(--sea);
  border-bottom: 2px solid var(--sea);
}
.hours .open.other {
  background: transparent;
  border: 2px solid var(--sea);
}
.past .hours .open {
  background: #e2e7e3;
  border-color: transparent;
}
.hours b {
  position: absolute;
  top: 36px;
  left: 0;
  right: 0;
  text-align: center;
  font-weight: 400;
  color: var(--soft);
}
.hours b.why {
  color: var(--ink);
  font-weight: 600;
}
.letter {
  display: block;
  text-align: center;
  font-size: 13px;
  color: var(--soft);
}
.now .letter {
  color: var(--ink);
  font-weight: 700;
}
.scale span {
  position: absolute;
  font-size: 13px;
  transform: translateY(-50%);
}
.scale {
  position: absolute;
  left: 0;
  top: 20px;
  height: 96px;
  width: 40px;
}
.notes {
  position: relative;
  height: 66px;
  font-size: 13px;
}
.notes span {
  position: absolute;
  white-space: nowrap;
}
.notes .now {
  font-weight: 600;
}
.key {
  position: absolute;
  right: 0;
  top: 0;
}
</style>
