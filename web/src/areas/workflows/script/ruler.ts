/** What the ruler of time says beside a line. It is computed by the server from the draft, and never typed. */
import type { Schemas } from "@/api/client";
import { clockTime, moment } from "@/ui/words";

type Line = Schemas["LineReading"];

export interface Mark {
  day: string;
  rest: string;
  /** The date, as if joining when the page says; for the first line of a day. */
  date?: string;
  weekend?: boolean;
  /** What is kept on that day. */
  holiday?: string;
}

export function days(from: number, to: number): string {
  return from === to ? `Day ${from}` : `Day ${from} to ${to}`;
}

/** `before` is the reading of the line above in the same run: a day is named once. */
export function mark(line: Line | undefined, before?: Line): Mark {
  if (!line) return { day: "", rest: "" };
  const { acts, past, waits } = line;
  if (!acts || !past) {
    if (!line.goes_by) return { day: "never", rest: "" };
    if (waits === "time") return { day: `by ${line.goes_by}`, rest: "moves with it" };
    return { day: before?.goes_by === line.goes_by ? "" : `by ${line.goes_by}`, rest: "" };
  }
  if (waits) {
    const until = waits === "time" ? `to ${days(past.day, past.last_day)}` : `until ${days(past.last_day, past.last_day)}`;
    return { day: until, rest: past.at === past.last_at || past.day === past.last_day ? clockTime(past.last_at) : "" };
  }
  const named = !before?.waits && before?.acts?.day === acts.day && before.acts.last_day === acts.last_day;
  const date = before?.acts?.day === acts.day || acts.day !== acts.last_day ? undefined : (moment(acts.at).split(",")[0] ?? "");
  const weekend = date?.startsWith("Sat") || date?.startsWith("Sun");
  return {
    day: named ? "" : days(acts.day, acts.last_day),
    rest: acts.day === acts.last_day ? clockTime(acts.at) : "",
    date,
    weekend,
    holiday: date ? line.holiday : "",
  };
}

/** Quiet days between two lines: their first and last day, counted from joining; nothing when there are none. */
export function quiet(line: Line | undefined, before: Line | undefined): string {
  const [from, to] = [before?.acts?.last_day, before?.past?.day];
  if (!line || before?.waits !== "time" || from === undefined || to === undefined || to - from < 2) return "";
  const [first, last] = [from + 1, to - 1];
  return first === last ? `Day ${first}` : `Day ${first} to ${last}`;
}

/** How long after the line above that last did something: "5 days after “Checking in”"; the other reading of a day. */
export function since(line: Line, before: Line | undefined, name: string): string {
  if (!line.acts || !before?.acts || line.acts.day !== line.acts.last_day || before.acts.day !== before.acts.last_day) return "";
  const between = line.acts.day - before.acts.day;
  if (between === 0) return `on the same day as ${name}`;
  return `${between === 1 ? "a day" : `${between} days`} after ${name}`;
}
