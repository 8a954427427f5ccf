/** Lines typed as words, by the kinds that the core declares: what is understood fills its parts, and no word is dropped. */
import fc from "fast-check";
import { describe, expect, test } from "vitest";

import { made, suggestions } from "@/areas/workflows/script/typed";
import { dateOf, duration, timeOfDay } from "@/sentences/times";
import { kindNamed, kinds } from "./catalogue";

const KNOWN = { member: ["Ana Reyes", "Tom Fell"] };
type Plain = Record<string, never>;
function lines(words: string) {
  const first = suggestions(words, kinds)[0];
  return first ? made(first, kinds, KNOWN) : { steps: [], left: words };
}
const of = (words: string) => lines(words).steps.map((step) => step as unknown as Plain);

describe("lengths, times of day and dates", () => {
  test.each([
    ["5 days", "5 days"],
    ["an hour", "1 hour"],
    ["90 min", "90 minutes"],
    ["1 hour 30 minutes", "90 minutes"],
    ["2 weeks 1 day", "15 days"],
    ["half a day", "12 hours"],
    ["soon", undefined],
  ])("%s is %s", (typed, is) => expect(duration(typed)).toBe(is));
  test.each([
    ["9", "09:00"],
    ["930", "09:30"],
    ["2pm", "14:00"],
    ["12am", "00:00"],
    ["25", undefined],
    ["9:61", undefined],
  ])("%s o’clock is %s", (typed, is) => expect(timeOfDay(typed)).toBe(is));
  test("any time and length that can be written is read as it is", () => {
    fc.assert(
      fc.property(
        fc.nat(23),
        fc.nat(59),
        (h, m) => timeOfDay(`${h}:${String(m).padStart(2, "0")}`) === `${String(h).padStart(2, "0")}:${String(m).padStart(2, "0")}`,
      ),
    );
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 9999 }),
        fc.constantFrom("second", "minute", "hour", "day", "week", "month"),
        (n, unit) => duration(`${n} ${unit}s`) === `${n} ${unit}s`,
      ),
    );
  });
  test("a day without its year is the next to come", () => {
    const now = new Date();
    const past = new Date(now.getFullYear(), now.getMonth(), now.getDate() - 1);
    const word = past.toLocaleString("en", { month: "long" });
    expect(dateOf(`${past.getDate()} ${word}`)?.slice(0, 4)).toBe(String(past.getFullYear() + 1));
    expect(dateOf("2027-03-05")).toBe("2027-03-05");
    expect(dateOf("the 5th")).toBeUndefined();
  });
});

describe("a line as it is typed", () => {
  test("a wait before it, its time, its message's name and words", () => {
    const [wait, text] = of("after 5 days text hello: Hi, it is us");
    expect(wait).toMatchObject({ kind: "wait", duration: "5 days" });
    expect(text).toMatchObject({ kind: "text", message: { name: "Hello", body: "Hi, it is us" } });
    expect(of("wait 3 days until 9:30")[0]).toMatchObject({ kind: "wait", duration: "3 days", at: "09:30" });
  });
  test("who is to ring, by their first name", () =>
    expect(of("call ana about the course")[0]).toMatchObject({ kind: "call", assign: { to: "member", members: ["Ana Reyes"] } }));
  test("opting out is not agreeing, and of the channel that was typed", () => {
    const [out] = of("opt out of texts");
    expect(JSON.stringify(out)).toContain("text");
    expect(out).not.toMatchObject({ given: true });
  });
  test("every kind is found by each of its names, first where it is typed whole", () => {
    for (const kind of kinds)
      for (const name of kind.finds) expect(suggestions(name, kinds).map((one) => one.kind.kind)).toContain(kind.kind);
  });
  test("no word is dropped: it stands in a part, or is left to be written", () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...kinds.flatMap((kind) => kind.finds)),
        fc.array(fc.constantFrom("blue", "clay", "boat", "kiln"), { minLength: 1, maxLength: 3 }),
        (name, words) => {
          const { steps, left } = lines(`${name} ${words.join(" ")}`);
          const said = `${JSON.stringify(steps)} ${left}`.toLowerCase();
          return words.every((word) => said.includes(word));
        },
      ),
      { numRuns: 500 },
    ));
  test("lines that are made have ids of their own, and none of their kind's blank is changed", () => {
    const blank = JSON.stringify(kindNamed("text").blank);
    const [one, other] = [of("text hello"), of("text hello")];
    expect(one[0]?.id).not.toBe(other[0]?.id);
    expect(JSON.stringify(kindNamed("text").blank)).toBe(blank);
  });
});
