import fc from "fast-check";
import { describe, expect, it } from "vitest";

import { toContent, toText } from "@/areas/workflows/script/richText";

const words = fc.stringMatching(/^[a-z*_[\]\\& ]{1,8}$/).filter((text) => text.trim() === text && text !== "");
const marks = fc.uniqueArray(fc.constantFrom("bold", "italic", "link"));
const nodes = fc.array(
  fc.record({ words, marks, field: fc.boolean() }).map((one) => ({
    ...(one.field
      ? { type: "mergeField", attrs: { path: "contact.first_name", words: one.words.replaceAll(/["\\]/g, "") } }
      : { type: "text", text: one.words }),
    marks: (["bold", "italic", "link"] as const)
      .filter((mark) => one.marks.includes(mark))
      .map((type) => (type === "link" ? { type, attrs: { href: "https://example.com/a_b" } } : { type })),
  })),
  { minLength: 1, maxLength: 4 },
);
/** Runs apart by a word without marks, as people write them: emphasis that touches emphasis is nobody's way of writing. */
const paragraph = nodes.map((some) => ({
  type: "paragraph",
  content: some.flatMap((one) => [one, { type: "text", text: " and ", marks: [] }]),
}));

/** Neighbours of one look are one run. */
function joined(doc: { content?: { content?: { text?: string; marks?: unknown[] }[] }[] }) {
  return doc.content?.map((block) =>
    (block.content ?? []).reduce<{ text: string; marks: string; attrs: string }[]>((all, node) => {
      const one = {
        text: node.text ?? "",
        marks: JSON.stringify(node.marks ?? []),
        attrs: JSON.stringify((node as { attrs?: object }).attrs ?? ""),
      };
      const last = all.at(-1);
      if (last && last.marks === one.marks && last.text && one.text) last.text += one.text;
      else all.push(one);
      return all;
    }, []),
  );
}

describe("words with emphasis, links and merge fields", () => {
  it("are read again as they were written", () => {
    fc.assert(
      fc.property(fc.array(paragraph, { minLength: 1, maxLength: 3 }), (content) => {
        const doc = { type: "doc", content };
        expect(joined(toContent(toText(doc, true), { rich: true }))).toEqual(joined(doc));
      }),
    );
  });
  it("are plain words where nobody asked for more", () => {
    fc.assert(fc.property(fc.stringMatching(/^[a-z*_[\]()\\ \n]{0,30}$/), (text) => void expect(toText(toContent(text))).toBe(text)));
  });
  it("are read as people type them", () => {
    expect(
      toContent("5 * 3, **now** [here](https://example.com)", { rich: true }).content?.[0]?.content?.map((one) => [
        one.text,
        one.marks?.[0]?.type,
      ]),
    ).toEqual([
      ["5 ", undefined],
      ["*", undefined],
      [" 3, ", undefined],
      ["now", "bold"],
      [" ", undefined],
      ["here", "link"],
    ]);
  });
});
