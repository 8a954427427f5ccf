/** The workflow document as the page handles it: finding, inserting, moving and removing lines. All changes are made
 * on the draft that `useDraft` hands out. */
import { toRaw } from "vue";

import type { Schemas } from "@/api/client";

export type Doc = Schemas["Workflow"];
export type Step = Doc["steps"][number];
export type { Kind } from "@/sentences/written";
export type ReplyLane = Schemas["ReplyLane"];
export type AssistantLane = Schemas["AssistantLane"];
export type ChoiceLane = Schemas["ChoiceLane"];
export type Mend = Schemas["Mend"];
export type Lane = Extract<Step, { lanes: unknown }>["lanes"][number];
/** Where a line stands: the run it is in, its place there, and the lane and step around it (none at the root). */
export interface Place {
  run: Step[];
  index: number;
  lane?: Lane;
  parent?: Step;
}

const numbers = new WeakMap<Doc, number>();
let numbered = 0;
/** A number of the document as it is now: another for each change. */
export function numberOf(doc: Doc): number {
  const known = numbers.get(doc) ?? ++numbered;
  numbers.set(doc, known);
  return known;
}

export function newId(prefix: string): string {
  return `${prefix}-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36)}`;
}

export function lanesOf(step: Step): Lane[] {
  return "lanes" in step ? step.lanes : [];
}

export function* walk(steps: Step[]): Generator<Step> {
  for (const step of steps) {
    yield step;
    for (const lane of lanesOf(step)) yield* walk(lane.steps);
  }
}

export function stepOf(doc: Doc, id: string): Step | undefined {
  for (const step of walk(doc.steps)) if (step.id === id) return step;
  return undefined;
}

export function laneOf(doc: Doc, id: string): { lane: Lane; step: Step } | undefined {
  for (const step of walk(doc.steps)) {
    const lane = lanesOf(step).find((one) => one.id === id);
    if (lane) return { lane, step };
  }
  return undefined;
}

/** The lines of a lane, or of the script itself (""). */
export function runOf(doc: Doc, laneId: string): Step[] {
  return laneId ? (laneOf(doc, laneId)?.lane.steps ?? []) : doc.steps;
}

export function placeOf(doc: Doc, id: string): Place | undefined {
  function within(run: Step[], lane?: Lane, parent?: Step): Place | undefined {
    for (const [index, step] of run.entries()) {
      if (step.id === id) return { run, index, lane, parent };
      for (const below of lanesOf(step)) {
        const found = within(below.steps, below, step);
        if (found) return found;
      }
    }
    return undefined;
  }
  return within(doc.steps);
}

/** A copy with ids of its own, lanes and lines below included. Who waits for the outcome of a copied line waits for the
 * copy's. */
export function withNewIds(steps: Step[]): Step[] {
  const copies = structuredClone(toRaw(steps));
  const became = new Map<string, string>();
  for (const one of walk(copies)) {
    const fresh = newId(one.kind.replaceAll("_", "-"));
    became.set(one.id, fresh);
    one.id = fresh;
    for (const lane of lanesOf(one)) lane.id = newId("lane");
  }
  for (const one of walk(copies))
    for (const lane of lanesOf(one))
      if ("on" in lane && lane.on?.kind === "task_done" && lane.on.step) lane.on.step = became.get(lane.on.step) ?? lane.on.step;
  return copies;
}

export function removeSteps(doc: Doc, ids: string[]): void {
  for (const id of ids) {
    const place = placeOf(doc, id);
    place?.run.splice(place.index, 1);
  }
}

/** Lines one below another in one run, from one to another, in their order; the first alone when they stand apart. */
export function between(doc: Doc, from: string, to: string): string[] {
  const [first, last] = [placeOf(doc, from), placeOf(doc, to)];
  if (!first || !last || first.run !== last.run) return [from];
  const [a, b] = [Math.min(first.index, last.index), Math.max(first.index, last.index)];
  return first.run.slice(a, b + 1).map((step) => step.id);
}

/** Moves lines of one run one place up (-1) or down (1) together. From the edge of a lane they go out, before or after the
 * line that divides; beside a line that divides they pass it. */
export function moveSteps(doc: Doc, ids: string[], by: -1 | 1): void {
  const first = placeOf(doc, ids[0] ?? "");
  if (!first) return;
  const steps = first.run.splice(first.index, ids.length);
  const to = first.index + by;
  if (to >= 0 && to <= first.run.length) first.run.splice(to, 0, ...steps);
  else if (first.parent) {
    const outer = placeOf(doc, first.parent.id);
    outer?.run.splice(outer.index + (by === 1 ? 1 : 0), 0, ...steps);
  } else first.run.splice(first.index, 0, ...steps);
}

/** Sets a value at a path of names ("message.body", "lanes.0.words") below an object. */
export function setAt(object: unknown, path: string, value: unknown): void {
  const names = path.split(".");
  let part = object as Record<string, unknown>;
  for (const name of names.slice(0, -1)) part = part[name] as Record<string, unknown>;
  part[names.at(-1) as string] = value;
}

/** Makes the change that a check offers. */
export function mend(doc: Doc, step: string, offered: Mend): void {
  const place = placeOf(doc, step);
  if (offered.do === "set_workflow") setAt(doc, offered.path, offered.value);
  else if (!place) return;
  else if (offered.do === "remove") place.run.splice(place.index, 1);
  else if (offered.do === "remove_lane") {
    const lanes = lanesOf(place.run[place.index] as Step);
    lanes.splice(
      lanes.findIndex((lane) => lane.id === offered.path),
      1,
    );
  } else if (offered.do === "insert_before") {
    const value = offered.value as Step;
    place.run.splice(place.index, 0, { ...value, id: newId(value.kind) });
  } else setAt(place.run[place.index], offered.path, offered.value);
}

/** What a lane is for that takes answers of one kind, or one thing that comes of a conversation. */
export const LANE_NAMES: Record<string, string> = {
  yes: "yes",
  out: "out",
  other: "anything else",
  none: "no answer",
  booked: "a booking",
  declined: "a no",
  later: "not now",
  person: "somebody going on",
};
