/** A line typed as words: "wait 5 days at 9:30", "text checking in", "call ana about the course", "after 5 days text hello".
 *
 * The first words find the kind; what follows fills its parts by their sort, as far as it reads as one. A time before
 * the line makes a wait of its own; what follows a colon is what the message, or the caller, says. */
import { toRaw } from "vue";

import { AMOUNT, dateOf, duration, inUnits, timeOfDay, UNITS } from "@/sentences/times";
import { withNewIds, type Step } from "./document";
import { DAYS, DAY_NAMES, type Kind, type Part, type Values } from "@/sentences/written";

export interface Suggestion {
  kind: Kind;
  rest: string;
  /** The wait that was typed before it. */
  wait?: string;
  /** The name by which the kind was found, as it was typed. */
  name?: string;
}
/** Names that typed words may mean. */
export interface Known {
  member: string[];
}

const LATER = new RegExp(`^(?:after\\s+|in\\s+)?(${AMOUNT})\\s*(${UNITS})(?:\\s+later)?(?:\\s+|,\\s*|$)(?!before|after)(.*)$`, "i");

/** The kinds that fit what is typed, the best first; all of them when nothing is typed. */
export function suggestions(typed: string, kinds: Kind[]): Suggestion[] {
  const words = typed.trim();
  const later = words.match(LATER);
  const wait = kinds.find((kind) => kind.kind === "wait");
  if (later && wait) {
    const length = inUnits(later[1] as string, later[2] as string);
    const rest = (later[3] as string).trim();
    if (!rest || /^(at|then)\b/.test(rest)) return [{ kind: wait, rest: `${length} ${rest}`.trim(), name: "wait" }];
    return named(rest, kinds).map((one) => ({ ...one, wait: length }));
  }
  return named(words, kinds);
}
function named(typed: string, kinds: Kind[]): Suggestion[] {
  const words = typed.toLowerCase();
  const found: (Suggestion & { rank: number })[] = [];
  for (const kind of kinds) {
    let best: (Suggestion & { rank: number }) | undefined;
    for (const name of [kind.label.toLowerCase(), ...kind.finds]) {
      if (words === "" || name.startsWith(words)) best ??= { kind, rest: "", rank: 1 };
      if (words === name || words.startsWith(`${name} `) || words.startsWith(`${name}: `)) {
        const rank = -name.length; // the longest name that fits
        if (!best || rank < best.rank) best = { kind, rest: typed.slice(name.length).replace(/^[:\s]+/, ""), rank, name };
      }
    }
    if (best) found.push(best);
  }
  return found.sort((a, b) => a.rank - b.rank);
}

export interface Made {
  steps: Step[];
  /** Words that no part of the lines could take: they are not dropped, but stay to be written. */
  left: string;
}
/** New lines as suggested: the wait that was typed before, and the line with what was typed put into its parts. What is left
 * over is a line of its own where it begins with the name of a kind. */
export function made({ kind, rest, wait, name = "" }: Suggestion, kinds: Kind[], known: Known): Made {
  const step = structuredClone(toRaw(kind.blank)) as unknown as Step & Values;
  step.id = "new";
  Object.assign(step, kind.implied[name]);
  const left = fill(step, kind, rest, known).replace(/^(?:then|and|,|:)\s*/i, "");
  const next = left ? suggestions(left, kinds).find((one) => one.rest && one.name) : undefined;
  const below = next ? made(next, kinds, known) : { steps: [], left };
  const lines: Step[] = [step];
  const pause = kinds.find((one) => one.kind === "wait");
  if (wait && pause) lines.unshift({ ...(structuredClone(toRaw(pause.blank)) as unknown as Step), id: "new-wait", duration: wait } as Step);
  return { steps: [...withNewIds(lines), ...below.steps], left: below.left };
}

/** Puts words into the parts they fit; answers those that fit none. */
function fill(step: Values, kind: Kind, typed: string, known: Known): string {
  let rest = typed;
  /** Takes what fits a pattern out of the words. */
  function take(pattern: RegExp): string | undefined {
    const found = rest.match(pattern);
    if (!found) return undefined;
    rest = (rest.slice(0, found.index) + rest.slice((found.index ?? 0) + found[0].length)).replace(/\s+/g, " ").trim();
    return found[1] ?? found[0];
  }
  const of = (...sorts: Part["sort"][]) => kind.parts.find((part) => sorts.includes(part.sort));
  const set = (part: Part | undefined, value: unknown) => {
    if (part && value !== undefined) step[part.field] = value;
  };
  if (!rest) return "";
  const length = of("duration");
  if (length) {
    const amount = take(
      new RegExp(`^(?:for |up to )?((?:${AMOUNT})\\s*(?:${UNITS})(?:,? (?:and )?(?:${AMOUNT})\\s*(?:${UNITS}))?)\\b`, "i"),
    );
    set(length, amount && duration(amount));
    if (!amount && kind.kind === "wait" && /^until\b/.test(rest)) set(length, "0 days");
  }
  const time = of("time");
  if (time) set(time, timeOfDay(take(/(?:^|\s)(?:at|until|goes on at)\s+(\d{1,2}(?:[:.]?\d{2})?\s*(?:am|pm)?)\b/i) ?? ""));
  const weekdays = of("weekdays");
  if (weekdays) {
    const named = DAYS.filter((day) => new RegExp(`\\b(${day}|${DAY_NAMES[day]})s?\\b`, "i").test(rest));
    if (named.length) set(weekdays, named);
    if (named.length && kind.kind === "on_weekday") rest = "";
  }
  set(of("date"), dateOf(take(/\b(\d{4}-\d{2}-\d{2}|\d{1,2} [a-z]{3,9}(?: \d{4})?)\b/i)));
  const assign = of("assign");
  const member = assign && known.member.find((name) => new RegExp(`^${escaped(name.split(" ")[0] ?? name)}\\b`, "i").test(rest));
  if (assign && member) {
    set(assign, { to: "member", members: [member] });
    take(new RegExp(`^${escaped(member)}|^${escaped(member.split(" ")[0] ?? member)}`, "i"));
  }
  if (kind.who === "member") rest = rest.replace(/^(today|now|at once)\b\s*/i, "");
  rest = rest.replace(/^(about|that|to|the|of|from|:)\s+/i, "");
  const named = (words: string) => new RegExp(`^${escaped(words.replace(/s$/, ""))}s?\\b`, "i");
  for (const part of kind.parts) {
    if (part.sort !== "choice" && part.sort !== "channel") continue;
    const choice = part.choices?.find((one) => named(one.words).test(rest));
    if (choice) {
      set(part, choice.value);
      take(named(choice.words));
      rest = rest.replace(/^(the|list|for)\s+/i, "");
    }
  }
  if (!rest) return "";
  const first = kind.parts.find(
    (part) => !["duration", "time", "weekdays", "date", "choice", "channel", "assign", "yes-no"].includes(part.sort),
  );
  switch (first?.sort) {
    case "message": {
      const { name, says } = titled(rest);
      const subject = "subject" in (step[first.field] as object) ? { subject: capital(name) } : {};
      set(first, { ...(step[first.field] as object), ...subject, name: capital(name), body: says });
      return "";
    }
    case "count":
    case "money": {
      const number = take(/^[-+]?(\d+(?:\.\d+)?)/);
      set(first, number === undefined ? undefined : Number(number));
      return rest;
    }
    case "tags":
    case "workflows":
    case "words":
      set(
        first,
        rest
          .split(",")
          .map((one) => one.trim())
          .filter(Boolean),
      );
      return "";
    case "channels": {
      const order = first.choices?.map((one) => String(one.value)).filter((one) => rest.includes(one)) ?? [];
      set(first, order.length ? order.sort((a, b) => rest.indexOf(a) - rest.indexOf(b)) : undefined);
      return order.length ? "" : rest;
    }
    case "line": {
      const say = of("text");
      const { name, says } = say ? titled(rest) : { name: rest, says: "" };
      if (says) set(say, says);
      set(first, kind.who === "member" && kind.kind !== "call" ? capital(name) : name);
      return "";
    }
    case "tag":
    case "text":
    case "list":
    case "form":
    case "source":
    case "field":
    case "pipeline":
    case "appointment":
    case "workflow":
    case "service":
    case "address":
      set(first, rest);
      return "";
  }
  return rest;
}

function escaped(words: string): string {
  return words.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
}
/** "hello: Hi, it is us" cut at its colon. */
function titled(words: string): { name: string; says: string } {
  const [name, ...says] = words.split(/:\s+/);
  return { name: name as string, says: says.join(": ") };
}
function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}
