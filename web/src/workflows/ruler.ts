/** What the ruler of time says beside a line. It is computed by the server from the draft, and never typed. */
import type { Schemas } from "@/api/client";
import { clockTime } from "@/ui/words";

export interface Mark {
  day: string;
  rest: string;
}

export function days(from: number, to: number): string {
  return from === to ? `Day ${from}` : `Day ${from} to ${to}`;
}

/** `before` is the reading of the line above in the same run: a day is named once. */
export function mark(line: Schemas["LineReading"] | undefined, before?: Schemas["LineReading"]): Mark {
  if (!line) return { day: "", rest: "" };
  const { acts, past, waits } = line;
  if (!acts || !past) return { day: line.goes_by ? `by ${line.goes_by}` : "never", rest: "" };
  if (waits) {
    const until = waits === "time" ? `to ${days(past.day, past.last_day)}` : `until ${days(past.last_day, past.last_day)}`;
    return { day: until, rest: past.at === past.last_at ? clockTime(past.at) : "" };
  }
  if (acts.at !== acts.last_at) return { day: days(acts.day, acts.last_day), rest: "" };
  const named = !before?.waits && before?.acts?.day === acts.day && before.acts.last_day === acts.last_day;
  return { day: named ? "" : `Day ${acts.day}`, rest: clockTime(acts.at) };
}
