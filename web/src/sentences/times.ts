/** Lengths, times of day and dates as people type them. */
const SMALL = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"];
export const UNITS = "seconds?|secs?|minutes?|mins?|hours?|h|days?|d|weeks?|w|months?";
export const AMOUNT = `\\d{1,5}|half an?|an?|the|next|${SMALL.join("|")}`;
const HALVES: Record<string, [number, string]> = { minute: [30, "second"], hour: [30, "minute"], day: [12, "hour"] };

/** A duration as typed ("5 days", "90 min", "an hour"), or nothing. */
export function duration(typed: string): string | undefined {
  const [first, second] = [...typed.toLowerCase().matchAll(new RegExp(`(${AMOUNT})\\s*(${UNITS})\\b`, "g"))];
  if (!first || first.index) return undefined;
  const length = inUnits(first[1] as string, first[2] as string);
  return second ? together(length, inUnits(second[1] as string, second[2] as string)) : length;
}
/** What one of a unit is in the next smaller one that lengths are written in. */
const IN: Record<string, [number, string]> = { week: [7, "day"], day: [24, "hour"], hour: [60, "minute"], minute: [60, "second"] };
/** "1 hour" and "30 minutes" as one length in the smaller unit: "90 minutes". */
function together(long: string, short: string): string | undefined {
  const [most, bigger] = apart(long);
  const [more, smaller] = apart(short);
  let [amount, unit] = [most, bigger];
  while (unit !== smaller) {
    const step = IN[unit];
    if (!step) return undefined;
    [amount, unit] = [amount * step[0], step[1]];
  }
  return inUnits(String(amount + more), unit);
}
function apart(length: string): [number, string] {
  const [amount, unit] = length.split(" ");
  return [Number(amount), (unit ?? "").replace(/s$/, "")];
}
/** A number of a unit, both as typed, as a length: "5", "d" is "5 days". */
export function inUnits(amount: string, unit: string): string {
  const number = /^\d/.test(amount) ? Number(amount) : Math.max(SMALL.indexOf(amount.toLowerCase()) + 1, 1);
  const name = unit.toLowerCase().replace(/^(sec|min|hour|day|week|month|second|minute|h|d|w)s?$/, "$1");
  const half = /^half/i.test(amount) ? HALVES[name] : undefined;
  if (half) return `${half[0]} ${half[1]}s`;
  const whole = { sec: "second", min: "minute", h: "hour", d: "day", w: "week" }[name] ?? name;
  return `${number} ${whole}${number === 1 ? "" : "s"}`;
}

/** A time of day as typed ("9", "9:30", "930", "2pm"), as "09:30"; or nothing. */
export function timeOfDay(typed: string): string | undefined {
  const found = typed
    .trim()
    .toLowerCase()
    .match(/^(\d{1,2})(?:[:.]?(\d{2}))?\s*(am|pm)?$/);
  if (!found) return undefined;
  const hour = (Number(found[1]) % (found[3] ? 12 : 24)) + (found[3] === "pm" ? 12 : 0);
  const minute = Number(found[2] ?? 0);
  if (Number(found[1]) > 23 || minute > 59) return undefined;
  return `${String(hour).padStart(2, "0")}:${String(minute).padStart(2, "0")}`;
}

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
/** A date as typed ("2026-03-05", "5 March", the next one to come), as ISO 8601; or nothing. */
export function dateOf(typed: string | undefined): string | undefined {
  if (!typed) return undefined;
  if (/^\d{4}-\d{2}-\d{2}$/.test(typed)) return typed;
  const found = typed.toLowerCase().match(/^(\d{1,2}) ([a-z]{3})[a-z]*(?: (\d{4}))?$/);
  const month = MONTHS.indexOf(found?.[2] ?? "");
  if (!found || month < 0) return undefined;
  const now = new Date();
  const passed = month < now.getMonth() || (month === now.getMonth() && Number(found[1]) < now.getDate());
  const year = found[3] ?? now.getFullYear() + (passed ? 1 : 0);
  return `${year}-${String(month + 1).padStart(2, "0")}-${String(found[1]).padStart(2, "0")}`;
}
