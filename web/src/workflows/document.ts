/** The workflow document as the page handles it: finding, inserting, moving and removing lines. All changes are made
 * on a copy that `useDraft` hands out. */
import type { Schemas } from "@/api/client";

export type Doc = Schemas["Workflow"];
export type Step = Doc["steps"][number];
export type ReplyLane = Schemas["ReplyLane"];
export type ChoiceLane = Schemas["ChoiceLane"];
export type Lane = Extract<Step, { lanes: unknown }>["lanes"][number];
export type Kind = Schemas["CatalogueKind"];
export type KindPart = Schemas["CataloguePart"];
export type Condition = NonNullable<ChoiceLane["when"]>;

/** Where a line stands: the run it is in, its place there, and the lane and step around it (none at the root). */
export interface Place {
  run: Step[];
  index: number;
  lane?: Lane;
  parent?: Step;
}

export function newId(prefix: string): string {
  return `${prefix}-${crypto.getRandomValues(new Uint32Array(1))[0]?.toString(36)}`;
}

/** Whether a line holds more than the parts its sentence shows: days it keeps to, who gets it, a hold. */
export function saysMore(step: Step): boolean {
  if ("weekdays" in step && (step.weekdays.length < 7 || step.skip_holidays)) return true;
  return ("held" in step && step.held) || ("assign" in step && step.assign.to !== "responsible");
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

/** A copy with ids of its own, lanes and lines below included. */
export function withNewIds<T extends Step>(step: T): T {
  const copy = structuredClone(step);
  for (const one of walk([copy])) {
    one.id = newId(one.kind.replaceAll("_", "-"));
    for (const lane of lanesOf(one)) lane.id = newId("lane");
  }
  return copy;
}

export function removeStep(doc: Doc, id: string): void {
  const place = placeOf(doc, id);
  place?.run.splice(place.index, 1);
}

/** Moves a line one place up (-1) or down (1); from the edge of a lane it goes out, before or after the step that divides. */
export function moveStep(doc: Doc, id: string, by: -1 | 1): void {
  const place = placeOf(doc, id);
  if (!place) return;
  const [step] = place.run.splice(place.index, 1) as [Step];
  const to = place.index + by;
  if (to >= 0 && to <= place.run.length) {
    place.run.splice(to, 0, step);
  } else if (place.parent) {
    const outer = placeOf(doc, place.parent.id);
    outer?.run.splice(outer.index + (by === 1 ? 1 : 0), 0, step);
  } else {
    place.run.splice(place.index, 0, step);
  }
}
