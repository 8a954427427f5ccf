/** What is typed into a part of a sentence, as the document has it. */
import { cut } from "@/ui/words";
import { dateOf, duration, timeOfDay } from "./times";
import type { Part } from "./written";

export const UNITS = ["second", "minute", "hour", "day", "week", "month"];
/** Of what sort the names are that a part holds. */
export const NAMES: Partial<Record<Part["sort"], string>> = {
  tag: "tag",
  tags: "tag",
  field: "field",
  list: "list",
  form: "form",
  source: "source",
  pipeline: "pipeline",
  pipelines: "pipeline",
  stage: "stage",
  stages: "stage",
  appointment: "appointment",
  appointments: "appointment",
  workflow: "workflow",
  workflows: "workflow",
  member: "member",
  service: "service",
  series: "series",
  sender: "sender",
  score: "score",
};
/** Parts that hold several, typed by comma. */
export const COMMA: Part["sort"][] = ["tags", "pipelines", "stages", "appointments", "workflows", "words"];
/** Parts that are edited in the notes column. */
export const IN_NOTES: Part["sort"][] = ["message", "text", "pairs", "library"];

/** What an editor holds: typed words, a value of its own, or a length of time as an amount and its unit. */
export interface Typed {
  typed: string;
  own: unknown;
  amount: number;
  unit: string;
}

export function cutLength(words: string): [amount: number, unit: string] {
  const [number, name] = words.split(" ");
  return [Number(number), (name ?? "day").replace(/s$/, "")];
}

function number(part: Part, typed: string): number {
  const { least, most } = part;
  return Math.min(most ?? Infinity, Math.max(least ?? -Infinity, Number(typed) || (least ?? 0)));
}

/** undefined: not to be read, so the part stays as it was. */
export function read(part: Part, { typed, own, amount, unit }: Typed): unknown {
  const none = part.optional ? null : undefined;
  const length = () => duration(`${amount} ${unit}`);
  switch (part.sort) {
    case "duration":
      return unit === "" ? null : length();
    case "time":
      return typed.trim() === "" ? none : timeOfDay(typed);
    case "date":
      return typed.trim() === "" ? none : dateOf(typed.trim());
    case "count":
      return typed === "" && part.optional ? null : number(part, typed);
    case "money":
      return String(typed === "" ? 0 : number(part, typed));
    case "choice":
    case "channel":
    case "event":
      return typed === "" && part.optional ? null : typed;
    case "length":
      return { ...(own as object), than: length() ?? "7 days" };
    case "weekdays":
    case "channels":
    case "choices":
    case "assign":
    case "by":
    case "worth":
    case "deeds":
    case "rule":
    case "condition":
    case "happening":
      return own;
    default:
      return COMMA.includes(part.sort) ? [...new Set(cut(typed))] : typed.trim();
  }
}
