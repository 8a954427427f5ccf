/** A line typed as words: "wait 5 days", "text checking in", "tag keen". The first words find the kind, the rest its first part. */
import { toRaw } from "vue";

import type { Kind, Step } from "./document";
import { withNewIds } from "./document";

export interface Suggestion {
  kind: Kind;
  rest: string;
}

/** The kinds that fit what is typed, the best first; all of them when nothing is typed. */
export function suggestions(typed: string, kinds: Kind[]): Suggestion[] {
  const words = typed.trim().toLowerCase();
  const found: (Suggestion & { rank: number })[] = [];
  for (const kind of kinds) {
    let best: (Suggestion & { rank: number }) | undefined;
    for (const name of [kind.label.toLowerCase(), ...kind.finds]) {
      if (words === "" || name.startsWith(words)) best ??= { kind, rest: "", rank: 1 };
      if (words === name || words.startsWith(`${name} `)) {
        const rank = -name.length; // the longest name that fits
        if (!best || rank < best.rank) best = { kind, rest: typed.trim().slice(name.length).trim(), rank };
      }
    }
    if (best) found.push(best);
  }
  return found.sort((a, b) => a.rank - b.rank);
}

/** A duration as typed ("5 days", "90 min", "1h"), or nothing. */
export function duration(typed: string): string | undefined {
  const found = typed.toLowerCase().match(/^(\d{1,5})\s*(second|sec|minute|min|hour|h|day|d|week|w|month|m)s?\b/);
  if (!found) return undefined;
  const unit = { sec: "second", min: "minute", m: "month", h: "hour", d: "day", w: "week" }[found[2] as string] ?? found[2];
  const amount = Number(found[1]);
  return `${amount} ${unit}${amount === 1 ? "" : "s"}`;
}

/** A new line of the kind, with what was typed put into its first part. */
export function made({ kind, rest }: Suggestion): Step {
  const step = withNewIds({ ...structuredClone(toRaw(kind.blank)), id: "new" } as unknown as Step) as Step & Record<string, unknown>;
  const first = kind.parts[0];
  if (!first || !rest) return step;
  if (first.sort === "duration") step[first.field] = duration(rest) ?? step[first.field];
  else if (first.sort === "message") step[first.field] = { ...(step[first.field] as object), name: capital(rest) };
  else if (first.sort === "tag" || first.sort === "line") step[first.field] = rest;
  return step;
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}
