/** Words with merge fields, and where asked for with emphasis and links, between how they are kept and how they are edited.
 *
 * Kept is one string: a merge field is written {{ contact.first_name | default: "there" }}; emphasis and links as in CommonMark
 * (core/letters/inline.py): **bold**, *italic*, [words](https://example.com), a backslash before what is none of it. */
import type { JSONContent } from "@tiptap/core";

const FIELD = /^\{\{\s*([\w.]+)\s*(?:\|\s*default:\s*(?:"([^"]*)"|'([^']*)')\s*)?\}\}$/;
const CUT = /(\{\{[^{}]*\}\})|\\([\\`*_{}[\]()#+\-.!&<>~|"'])|(\*\*)|(\*)|(\[)|\]\(([^()\s]*)\)/g;

export function written(path: string, words: string | null): string {
  return words === null ? `{{ ${path} }}` : `{{ ${path} | default: "${words.replaceAll('"', "”")}" }}`;
}

interface Run {
  text: string;
  field?: { path: string; words: string | null };
  bold: boolean;
  italic: boolean;
  link: string;
}

function field(source: string): Run["field"] {
  const found = source.match(FIELD);
  return found ? { path: found[1] ?? "", words: found[2] ?? found[3] ?? null } : undefined;
}
/** One line cut into runs of one look. Without `rich`, only merge fields are told apart. */
function runs(line: string, rich: boolean): Run[] {
  const found: Run[] = [];
  const opened: number[] = [];
  let [bold, italic, at] = [false, false, 0];
  const add = (text: string, of?: Run["field"]) => (text || of) && found.push({ text, field: of, bold, italic, link: "" });
  for (const one of line.matchAll(CUT)) {
    const [source, merge, escaped, strong, em, open, address] = one;
    if (!rich && !merge) continue;
    add(line.slice(at, one.index));
    at = one.index + source.length;
    const before = line[one.index - 1] ?? " ";
    const after = line[at] ?? " ";
    const turns = (on: boolean) => (on ? before !== " " : after !== " ");
    if (merge) add(field(merge) ? "" : merge, field(merge));
    else if (escaped) add(escaped);
    else if (strong && turns(bold)) bold = !bold;
    else if (em && turns(italic)) italic = !italic;
    else if (open) {
      opened.push(found.length);
      add(open);
    } else if (address !== undefined && opened.length) {
      const start = opened.pop() ?? 0;
      found.splice(start, 1);
      for (const run of found.slice(start)) run.link = address;
    } else add(source);
  }
  add(line.slice(at));
  return found;
}

export function toContent(text: string, { rich = false, single = false } = {}): JSONContent {
  const lines = single ? [text.split("\n")[0] ?? ""] : text.split("\n");
  const paragraphs = lines.map((line) => {
    const content = runs(line, rich).map((run): JSONContent => {
      const marks = [
        ...(run.bold ? [{ type: "bold" }] : []),
        ...(run.italic ? [{ type: "italic" }] : []),
        ...(run.link ? [{ type: "link", attrs: { href: run.link } }] : []),
      ];
      const node = run.field ? { type: "mergeField", attrs: run.field } : { type: "text", text: run.text };
      return marks.length ? { ...node, marks } : node;
    });
    return content.length ? { type: "paragraph", content } : { type: "paragraph" };
  });
  return { type: "doc", content: paragraphs };
}

const escaped = (text: string) => text.replace(/[\\*_[\]&]/g, "\\$&");
const inAddress = (link: string) => link.trim().replaceAll(" ", "%20").replaceAll("(", "%28").replaceAll(")", "%29");
/** What stands around a run, from the outside in. */
const around = (run: Run) => [
  ...(run.link ? [`](${inAddress(run.link)})`] : []),
  ...(run.bold ? ["**"] : []),
  ...(run.italic ? ["*"] : []),
];

function line(all: Run[]): string {
  let made = "";
  const open: string[] = [];
  const close = (to: number) => {
    // Emphasis ends at a letter: blanks at its end stand behind it.
    const blanks = open.length > to ? (made.match(/ +$/)?.[0] ?? "") : "";
    made = made.slice(0, made.length - blanks.length);
    while (open.length > to) made += open.pop();
    made += blanks;
  };
  for (const run of all) {
    const wanted = around(run);
    let same = 0;
    while (same < open.length && open[same] === wanted[same]) same++;
    close(same);
    const text = run.field ? written(run.field.path, run.field.words) : escaped(run.text);
    const blanks = wanted.length > same ? (text.match(/^ +/)?.[0] ?? "") : "";
    made += blanks;
    for (const mark of wanted.slice(same)) {
      made += mark.startsWith("](") ? "[" : mark;
      open.push(mark);
    }
    made += text.slice(blanks.length);
  }
  close(0);
  return made;
}

/** The string that is kept, of what an editor holds. */
export function toText(doc: JSONContent, rich = false): string {
  const lines = (doc.content ?? []).map((block) => {
    const all = (block.content ?? []).map((node): Run => {
      const marks = new Map((node.marks ?? []).map((one) => [one.type, one.attrs]));
      return {
        text: node.text ?? "",
        field: node.type === "mergeField" ? (node.attrs as Run["field"]) : undefined,
        bold: marks.has("bold"),
        italic: marks.has("italic"),
        link: String(marks.get("link")?.href ?? ""),
      };
    });
    return rich ? line(all) : all.map((run) => (run.field ? written(run.field.path, run.field.words) : run.text)).join("");
  });
  return lines.join("\n");
}
