/** Opening hours as lines that are read and written: "Tuesday to Friday from 09:00 to 18:00". */
import type { Schemas } from "@/api/client";
import { DAYS, DAY_NAMES } from "@/sentences/written";
import { several } from "@/ui/words";

type Opening = Schemas["Opening"];
export interface OpeningLine {
  days: string[];
  start: string;
  end: string;
}
type Days = Record<string, readonly Opening[] | undefined>;

/** Days with the same hours are one line; in the order of the first day of each. */
export function linesOf(days: Days): OpeningLine[] {
  const lines: OpeningLine[] = [];
  for (const day of DAYS)
    for (const { start = "09:00", end = "17:00" } of days[day] ?? []) {
      const line = lines.find((one) => one.start === start && one.end === end && !one.days.includes(day));
      if (line) line.days.push(day);
      else lines.push({ days: [day], start, end });
    }
  return lines;
}

export function daysOf(lines: readonly OpeningLine[]): Record<string, Opening[]> {
  const days: Record<string, Opening[]> = {};
  for (const day of DAYS) {
    const hours = lines.filter((line) => line.days.includes(day)).map(({ start, end }) => ({ start, end }));
    if (hours.length) days[day] = hours.sort((a, b) => a.start.localeCompare(b.start));
  }
  return days;
}

/** "Monday", "Tuesday to Friday", "Saturday and Sunday", "Monday, Wednesday and Friday", "Every day". */
export function dayWords(days: readonly string[]): string {
  const names = days.map((day) => DAY_NAMES[day] ?? day);
  const first = DAYS.indexOf(days[0] as (typeof DAYS)[number]);
  const inARow = days.length > 2 && days.every((day, n) => DAYS[first + n] === day);
  if (days.length === DAYS.length) return "Every day";
  if (inARow) return `${names[0]} to ${names.at(-1)}`;
  return several(names) || "No day";
}
