/** Two people's changes to one draft: nothing of either is lost, and what both touched is asked about. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";

import { lanesOf, moveSteps, placeOf, removeSteps, runOf, walk, type Doc, type Step } from "@/areas/workflows/script/document";
import { merged } from "@/areas/workflows/script/merging";
import { plain } from "@/sentences/written";

const line = (id: string, body = id) => ({ kind: "text", id, message: { name: id.toUpperCase(), body } }) as unknown as Step;
const divides = (id: string, ...lanes: Step[][]) =>
  ({ kind: "choice", id, lanes: lanes.map((steps, n) => ({ id: `${id}-${n}`, words: "", steps })) }) as unknown as Step;
const script = (...steps: Step[]) => ({ name: "Script", description: "", steps }) as unknown as Doc;
const BASE = script(line("a"), divides("d", [line("b"), line("c")], [divides("e", [line("f")])]), line("g"), line("h"));

type Deed = { do: "write" | "remove" | "add" | "up" | "down" | "name"; at: number };
const deeds = fc.array(fc.record({ do: fc.constantFrom<Deed["do"][]>("write", "remove", "add", "up", "down", "name"), at: fc.nat(20) }), {
  maxLength: 5,
});
const idsOf = (doc: Doc) => [...walk(doc.steps)].map((step) => step.id);
const bodyOf = (doc: Doc, id: string) =>
  ([...walk(doc.steps)].find((one) => one.id === id) as { message?: { body: string } } | undefined)?.message?.body;

/** What somebody makes of a draft; `who` marks their words and new lines. */
function changed(doc: Doc, did: Deed[], who: string): Doc {
  const mine = plain(doc);
  for (const [number, deed] of did.entries()) {
    const ids = idsOf(mine);
    const id = ids[deed.at % ids.length];
    if (deed.do === "name") mine.name = `Script of ${who}`;
    if (!id) continue;
    const place = placeOf(mine, id);
    if (deed.do === "write" && bodyOf(mine, id))
      Object.assign(place?.run[place.index] as object, { message: { name: "N", body: `${id} by ${who}` } });
    if (deed.do === "remove") removeSteps(mine, [id]);
    if (deed.do === "add") place?.run.splice(place.index, 0, line(`${who}${number}`));
    if (deed.do === "up") moveSteps(mine, [id], -1);
    if (deed.do === "down") moveSteps(mine, [id], 1);
  }
  return mine;
}
const pairs = (property: (ours: Doc, theirs: Doc) => void) =>
  fc.assert(
    fc.property(deeds, deeds, (one, other) => property(changed(BASE, one, "us"), changed(BASE, other, "them"))),
    { numRuns: 400 },
  );

describe("whatever two people write at once", () => {
  test("who alone changed something gets it as it is", () =>
    pairs((ours, theirs) => {
      expect(merged(BASE, ours, BASE)).toEqual({ doc: ours, clashes: [] });
      expect(merged(BASE, BASE, theirs)).toEqual({ doc: theirs, clashes: [] });
    }));

  test("no line stands twice, and what neither took out is there", () =>
    pairs((ours, theirs) => {
      const ids = idsOf(merged(BASE, ours, theirs).doc);
      expect(new Set(ids).size).toBe(ids.length);
      const [mine, their] = [new Set(idsOf(ours)), new Set(idsOf(theirs))];
      for (const id of new Set([...mine, ...their])) {
        const taken = idsOf(BASE).includes(id) && !(mine.has(id) && their.has(id));
        const around = [...walk(ours.steps), ...walk(theirs.steps)].filter((one) =>
          lanesOf(one).some((lane) => lane.steps.some((step) => step.id === id)),
        );
        if (!taken && !around.some((one) => !ids.includes(one.id))) expect(ids).toContain(id);
      }
    }));

  test("what only one wrote stands, and is not asked about; where both wrote, ours stands and both are shown", () =>
    pairs((ours, theirs) => {
      const { doc, clashes } = merged(BASE, ours, theirs);
      for (const id of idsOf(BASE)) {
        const [was, mine, their, now] = [BASE, ours, theirs, doc].map((one) => bodyOf(one, id));
        if (!was || !mine || !their || !now) continue;
        expect(now).toBe(mine === was ? their : mine);
        if (mine !== was && their !== was && mine !== their)
          expect(clashes.map((one) => [one.ours, one.theirs])).toContainEqual([mine, their]);
      }
    }));

  test("what we wrote on and they took out stays, with the lines around it, and is asked about", () =>
    pairs((ours, theirs) => {
      const { doc, clashes } = merged(BASE, ours, theirs);
      for (const id of idsOf(BASE)) {
        const mine = bodyOf(ours, id);
        if (mine === undefined || mine === bodyOf(BASE, id) || idsOf(theirs).includes(id)) continue;
        expect(bodyOf(doc, id)).toBe(mine);
        expect(clashes.some((one) => one.theirs === "taken out")).toBe(true);
      }
    }));
});

test("a line in a lane that somebody wrote in comes back with the line that holds the lane", () => {
  const ours = plain(BASE);
  Object.assign(runOf(ours, "e-0")[0] as object, { message: { name: "F", body: "ours" } });
  const theirs = plain(BASE);
  removeSteps(theirs, ["d"]);
  const { doc, clashes } = merged(BASE, ours, theirs);
  expect(idsOf(doc)).toEqual(["a", "d", "e", "f", "g", "h"]);
  expect(clashes).toEqual([{ what: "the line with “F”", ours: "ours", theirs: "taken out" }]);
});
