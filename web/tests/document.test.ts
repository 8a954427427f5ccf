/** Lines moved, copied, taken out and found again; words replaced throughout. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";

import { between, lanesOf, moveSteps, removeSteps, runOf, walk, withNewIds, type Doc, type Step } from "@/areas/workflows/script/document";
import { put, readable, replaced, wordings } from "@/areas/workflows/script/wordings";
import { plain, wordsOf } from "@/sentences/written";
import { book, kindNamed, kinds } from "./catalogue";

const text = (id: string) =>
  ({ ...plain(kindNamed("text").blank), id, message: { name: id, body: `Hi {{ contact.first_name }}, ${id}` } }) as unknown as Step;
const call = { ...plain(kindNamed("call").blank), id: "ring" } as unknown as Step;
const waits = {
  ...plain(kindNamed("wait_for").blank),
  id: "w",
  lanes: [
    { id: "yes", on: { kind: "task_done", step: "ring", outcomes: ["reached"] }, steps: [text("b"), text("c")] },
    { id: "late", steps: [text("d")] },
  ],
} as unknown as Step;
const DOC = { name: "x", steps: [text("a"), call, waits, text("e")] } as unknown as Doc;
const ids = (doc: Doc) => [...walk(doc.steps)].map((one) => one.id);
const KINDS = new Map(kinds.map((one) => [one.kind, one]));

describe("lines", () => {
  test("moved about in any way, all are there once, and up then down is as before", () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...ids(DOC)), fc.constantFrom(-1 as const, 1 as const)), { maxLength: 12 }),
        (moves) => {
          const doc = plain(DOC);
          for (const [id, by] of moves) moveSteps(doc, [id], by);
          expect([...ids(doc)].sort()).toEqual([...ids(DOC)].sort());
        },
      ),
    ));
  test("from the edge of a lane a line goes out beside the line that divides", () => {
    const doc = plain(DOC);
    moveSteps(doc, ["b"], -1);
    expect(doc.steps.map((one) => one.id)).toEqual(["a", "ring", "b", "w", "e"]);
    moveSteps(doc, ["d"], 1);
    expect(doc.steps.map((one) => one.id)).toEqual(["a", "ring", "b", "w", "d", "e"]);
  });
  test("chosen from one to another, in one run alone", () => {
    expect(between(DOC, "e", "ring")).toEqual(["ring", "w", "e"]);
    expect(between(DOC, "a", "b")).toEqual(["a"]);
  });
  test("a copy has ids of its own, and who waits for a copied call waits for the copy", () => {
    const [ring, wait] = withNewIds([call, waits]) as [Step, Step];
    const fresh = [ring, ...walk([wait])].map((one) => one.id);
    expect(fresh.some((id) => ids(DOC).includes(id))).toBe(false);
    expect(lanesOf(wait)[0]).toMatchObject({ on: { step: ring.id } });
  });
  test("taken out with all that stands below them", () => {
    const doc = plain(DOC);
    removeSteps(doc, ["w", "a"]);
    expect(ids(doc)).toEqual(["ring", "e"]);
    expect(runOf(doc, "yes")).toEqual([]);
  });
});

describe("words of a script", () => {
  test("each is found once with its place, and put back where it stood", () => {
    const found = wordings(DOC.steps, KINDS);
    expect(found.filter((one) => one.path === "message.body").map((one) => one.step)).toEqual(["a", "b", "c", "d", "e"]);
    const doc = plain(DOC);
    put(
      doc,
      found.map((one) => ({ ...one, text: one.text.toUpperCase() })),
    );
    expect(wordings(doc.steps, KINDS).map((one) => one.text)).toEqual(found.map((one) => one.text.toUpperCase()));
  });
  test("replaced in either case, never inside a merge field, whatever signs they hold", () => {
    expect(replaced("Contact us. {{ contact.name }}", "contact", "ask")).toBe("Ask us. {{ contact.name }}");
    fc.assert(fc.property(fc.string({ minLength: 1, maxLength: 6 }), (find) => replaced(`{{ ${"x"} }}`, find, "y") === "{{ x }}"));
    fc.assert(
      fc.property(
        fc.string(),
        fc.string({ minLength: 1 }),
        (words, find) => replaced(words, find, find).toLowerCase() === words.toLowerCase(),
      ),
    );
  });
  test("merge fields are read by name", () => expect(readable('Hi {{ contact.first_name | default: "there" }}')).toBe("Hi [first name]"));
  test("every kind of line, test and start can be said as it is begun, and says nothing that is no word", () => {
    for (const one of [...kinds, ...book.tests.values(), ...book.triggers.values()]) {
      const said = wordsOf(one, one.blank, book);
      expect(said.trim()).not.toBe("");
      expect(said).not.toMatch(/undefined|null|NaN|\[object|\{\w+\}/);
    }
  });
});
