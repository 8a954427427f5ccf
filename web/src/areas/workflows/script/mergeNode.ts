/** A merge field in an editor, shown as “first name, or ‘there’”. */
import { Node } from "@tiptap/core";

import { written } from "./richText";

export const mergeNode = (labelOf: (path: string) => string) => {
  const shown = (path: string, words: string | null) =>
    words === null ? labelOf(path) : words === "" ? `${labelOf(path)}, or nothing` : `${labelOf(path)}, or “${words}”`;
  return Node.create({
    name: "mergeField",
    group: "inline",
    inline: true,
    atom: true,
    selectable: true,
    addAttributes: () => ({ path: { default: "" }, words: { default: null } }),
    parseHTML: () => [{ tag: "span[data-merge]" }],
    renderHTML: ({ node }) => [
      "span",
      { "data-merge": node.attrs.path, class: "merge" },
      shown(node.attrs.path as string, node.attrs.words as string | null),
    ],
    renderText: ({ node }) => written(node.attrs.path as string, node.attrs.words as string | null),
  });
};
