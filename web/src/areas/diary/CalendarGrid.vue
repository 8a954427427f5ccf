<script setup lang="ts">
/** The calendar of the account: appointments by day (a column a member), week or month; above them what goes out by itself and what is
 * to be done; closed days and members who are busy elsewhere behind them. Appointments are dragged to another time; by keys each opens
 * to the same. Times are local to the account, as the server gives them. */
import { createCalendar, DayGrid, destroyCalendar, Interaction, ResourceTimeGrid, TimeGrid, type Calendar } from "@event-calendar/core";
import "@event-calendar/core/index.css";
import { useMutationObserver } from "@vueuse/core";
import { onBeforeUnmount, onMounted, ref, watch } from "vue";

import type { Schemas } from "@/api/client";
import { clockTime, dayOf, many } from "@/ui/words";

type Entry = Schemas["EntryOut"];
export interface Moved {
  entry: Entry;
  at: string;
  member: number | null;
  back: () => void;
}
const props = defineProps<{
  shape: "day" | "week" | "month";
  day: string;
  calendar?: Schemas["BookedCalendarOut"];
  outlook?: Schemas["DiaryDay"][];
  may: boolean;
  now: string;
}>();
const emit = defineEmits<{ open: [entry: Entry]; moved: [what: Moved]; book: [at: string, member: number | null]; day: [day: string] }>();
const box = ref<HTMLElement>();
let shown: Calendar | undefined;
const VIEWS = { day: "resourceTimeGridDay", week: "timeGridWeek", month: "dayGridMonth" } as const;
const NOBODY = "0"; // the column of what no member gives

const entries = () => new Map((props.calendar?.entries ?? []).map((one) => [one.key, one]));
const wall = (at: Date) =>
  `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}`;
const two = (n: number) => String(n).padStart(2, "0");
const allThere = (one: Entry) => one.people.every((each) => each.state === "attended");
const kept = (one: Entry) => one.people.some((each) => each.state === "booked" || each.state === "confirmed");

function words(one: Entry): string {
  const [first] = one.people;
  return one.places > 1 || one.people.length > 1
    ? `${one.type}, ${one.people.length} of ${one.places}`
    : `${first?.contact ?? ""}, ${one.type}`;
}
function lines(): { day: string; words: string }[] {
  const found: { day: string; words: string }[] = [];
  for (const one of props.outlook ?? []) {
    const out = one.outlook.filter((row) => row.channel).reduce((sum, row) => sum + row.count, 0);
    const tasks = one.items.filter((item) => item.kind !== "appointment").length;
    if (out) found.push({ day: one.day, words: `${many(out, "message goes", "messages go")} out` });
    if (tasks) found.push({ day: one.day, words: `${many(tasks, "task")}` });
  }
  return found;
}
function events() {
  const closed = Object.entries(props.calendar?.closed ?? {}).map(([day, why]) => ({
    id: `closed ${day}`,
    start: `${day}T00:00`,
    end: `${day}T23:59`,
    allDay: true,
    title: why,
    editable: false,
    classNames: ["closed"],
  }));
  const busy = (props.calendar?.busy ?? []).map((one, n) => ({
    id: `busy ${n}`,
    start: one.start,
    end: one.end,
    resourceIds: [String(one.member)],
    display: "background" as const,
    classNames: ["busy"],
  }));
  const above = lines().map((one, n) => ({
    id: `line ${n}`,
    start: `${one.day}T00:00`,
    end: `${one.day}T23:59`,
    allDay: true,
    title: one.words,
    editable: false,
    classNames: ["above"],
    extendedProps: { day: one.day },
  }));
  const own = [...entries().values()].map((one) => ({
    id: one.key,
    start: one.start,
    end: one.end,
    title: words(one),
    resourceIds: [String(one.member ?? NOBODY)],
    editable: props.may && kept(one) && one.sitting !== null && one.start > props.now,
    classNames: ["entry", kept(one) ? "" : allThere(one) ? "came" : "over"],
  }));
  return [...closed, ...(props.shape === "month" ? [] : busy), ...above, ...own];
}
function resources() {
  const members = (props.calendar?.members ?? []).map((one) => ({ id: String(one.id), title: one.name }));
  const nobodys = (props.calendar?.entries ?? []).some((one) => one.member === null) || !members.length;
  return nobodys ? [...members, { id: NOBODY, title: "The business" }] : members;
}
/** From an hour before the first to an hour after the last, and the usual day at least. */
function hours() {
  const starts = (props.calendar?.entries ?? []).map((one) => Number(one.start.slice(11, 13)));
  const ends = (props.calendar?.entries ?? []).map((one) => Number(one.end.slice(11, 13)) + 1);
  return {
    slotMinTime: `${two(Math.max(0, Math.min(8, ...starts)))}:00:00`,
    slotMaxTime: `${two(Math.min(24, Math.max(19, ...ends)))}:00:00`,
  };
}
/** As high as the shortest of them needs to be hit by a finger. */
function slotHeight() {
  const minutes = (props.calendar?.entries ?? []).map((one) => (Date.parse(one.end) - Date.parse(one.start)) / 60_000);
  return Math.ceil((26 * 30) / Math.min(30, ...minutes.filter((length) => length >= 10)));
}
/** What stands in one: when, what, and for who does not see in which column it is, the day. */
function content(time: string, title: string, at: string): Node[] {
  const parts = [
    ["ec-event-time", time],
    ["ec-event-title", title],
    ["visually-hidden", `, ${dayOf(at, props.now)}`],
  ];
  return parts
    .filter(([, words]) => words)
    .map(([name = "", words = ""]) => Object.assign(document.createElement("span"), { className: name, textContent: words }));
}
function options(): Calendar.Options {
  return {
    view: VIEWS[props.shape],
    date: `${props.day}T12:00`,
    events: events(),
    resources: resources(),
    ...hours(),
    slotHeight: slotHeight(),
    headerToolbar: { start: "", center: "", end: "" },
    highlightedDates: [props.now.slice(0, 10)],
    firstDay: 1,
    locale: "en-GB",
    height: props.shape === "month" ? "auto" : "68vh",
    nowIndicator: false, // it would go by the clock of whoever looks
    allDayContent: "",
    dayMaxEvents: true,
    eventDurationEditable: false,
    eventTimeFormat: (start: Date) => clockTime(wall(start)),
    slotLabelFormat: { hour: "2-digit", minute: "2-digit", hour12: false },
    dayHeaderFormat:
      props.shape === "month" ? ({ weekday: "short" } as const) : ({ weekday: "short", day: "numeric", month: "short" } as const),
    slotDuration: "00:30:00",
    longPressDelay: 400,
    eventContent: ({ event, timeText }) => ({ domNodes: content(event.allDay ? "" : timeText, String(event.title), wall(event.start)) }),
    eventClick: ({ event }) => {
      const one = entries().get(String(event.id));
      if (one) emit("open", one);
      else if (typeof event.extendedProps.day === "string") emit("day", event.extendedProps.day);
    },
    eventDrop: (info) => {
      const entry = entries().get(String(info.event.id));
      if (!entry) return info.revert();
      const member = info.newResource ? Number(info.newResource.id) || null : null;
      emit("moved", { entry, at: wall(info.event.start), member, back: info.revert });
    },
    dateClick: (info) => {
      if (props.shape === "month" || info.allDay) emit("day", wall(info.date).slice(0, 10));
      else if (props.may) emit("book", wall(info.date), info.resource ? Number(info.resource.id) || null : null);
    },
  };
}
/** The library calls it a table whose buttons are in no cell, which no screen reader can make sense of: here it is a group of buttons. */
const OF_A_TABLE = ["aria-colindex", "aria-rowindex", "aria-colcount", "aria-rowcount", "aria-colspan", "aria-rowspan"];
const ROLES = ["table", "rowgroup", "row", "cell", "columnheader", "rowheader"];
const TABLE = [...ROLES.map((role) => `[role='${role}']`), ...OF_A_TABLE.map((name) => `[${name}]`)].join(", ");
function plain() {
  box.value?.querySelectorAll(TABLE).forEach((one) => {
    if (ROLES.includes(one.getAttribute("role") ?? "")) one.removeAttribute("role");
    OF_A_TABLE.forEach((name) => one.removeAttribute(name));
  });
}
useMutationObserver(box, plain, { childList: true, subtree: true, attributes: true, attributeFilter: ["role", ...OF_A_TABLE] });
onMounted(() => {
  if (box.value) shown = createCalendar(box.value, [DayGrid, TimeGrid, ResourceTimeGrid, Interaction], options());
  plain();
});
watch(
  () => [props.shape, props.day, props.calendar, props.outlook, props.may],
  () => {
    for (const [name, value] of Object.entries(options())) shown?.setOption(name as keyof Calendar.Options, value as never);
  },
);
onBeforeUnmount(() => {
  if (shown) void destroyCalendar(shown);
});
</script>

<template>
  <div ref="box" class="calendar" role="group" aria-label="Calendar" />
</template>

<style scoped>
.calendar {
  border-top: 1px solid var(--ink);
  margin-top: 8px;
}
.calendar :deep(.ec) {
  --ec-bg-color: transparent;
  --ec-border-color: var(--rule);
  --ec-text-color: var(--ink);
  --ec-today-bg-color: transparent;
  --ec-highlight-color: var(--mist);
  font: 14px var(--sans);
}
.calendar :deep(.ec-day-grid .ec-event),
.calendar :deep(.ec-event.above),
.calendar :deep(.ec-event.closed) {
  min-height: 26px;
}
.calendar :deep(.ec-toolbar) {
  display: none;
}
.calendar :deep(.ec-event-body) {
  display: block;
  overflow: hidden;
}
.calendar :deep(.ec-event-time),
.calendar :deep(.ec-event-title) {
  display: block;
  position: static;
  font: inherit;
}
.calendar :deep(.ec-event-time) {
  font-weight: 600;
}
.calendar :deep(.ec-day-grid .ec-event-body) {
  display: flex;
  gap: 4px;
  white-space: nowrap;
}
.calendar :deep(.ec-event) {
  border-radius: 0;
  box-shadow: none;
  font: 13px/1.3 var(--sans);
}
.calendar :deep(.ec-event.entry) {
  min-block-size: 26px !important; /* one that is cut at midnight, too: the library writes its height at the element */
  background: var(--paper);
  border: 1px solid var(--sea);
  border-left-width: 4px;
  color: var(--ink);
}
.calendar :deep(.ec-event.came) {
  border-color: var(--kelp);
}
.calendar :deep(.ec-event.over) {
  border-color: var(--rust);
}
.calendar :deep(.ec-event.above) {
  background: transparent;
  color: var(--soft);
}
.calendar :deep(.ec-event.closed) {
  background: transparent;
  color: var(--gorse);
  font-weight: 600;
}
.calendar :deep(.ec-bg-event.busy),
.calendar :deep(.ec-event.busy) {
  background: repeating-linear-gradient(135deg, var(--rule) 0 2px, transparent 2px 8px);
  opacity: 1;
}
.calendar :deep(.ec-event:focus-visible) {
  outline: 3px solid var(--sea);
  outline-offset: 1px;
}
.calendar :deep(.ec-col-head) {
  font: 600 13px var(--sans);
}
</style>
