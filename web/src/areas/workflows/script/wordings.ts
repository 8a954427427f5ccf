/** All that a workflow says in words: found, replaced, and carried over into a next line. */
import { setAt, stepOf, walk, withNewIds, type Doc, type Step } from "./document";
import type { Kind, Values } from "@/sentences/written";

/** One text of a line: where it stands below the line ("message.body"), what it is called, and what it says. */
export interface Wording {
  step: string;
  path: string;
  what: string;
  text: string;
}

/** Every text of the script, in its order: names, headings and bodies of messages, what to do and to say. */
export function wordings(steps: Step[], kinds: Map<string, Kind>): Wording[] {
  const found: Wording[] = [];
  for (const step of walk(steps)) {
    const values = step as unknown as Values;
    if (values.library) continue; // its words are the library's
    for (const part of kinds.get(step.kind)?.parts ?? []) {
      const value = values[part.field];
      const add = (path: string, what: string, text: unknown) =>
        typeof text === "string" && text && found.push({ step: step.id, path, what, text });
      if (part.sort === "line" || part.sort === "text") add(part.field, part.label, value);
      if (part.sort !== "message" || !value) continue;
      const message = value as {
        name: string;
        subject?: string;
        title?: string;
        body: string;
        letter?: { lines: LetterLine[] } | null;
        others?: { heading: string; body: string }[];
      };
      add(`${part.field}.name`, "name", message.name);
      add(`${part.field}.subject`, "subject", message.subject);
      add(`${part.field}.title`, "title", message.title);
      // What a letter in lines says is written in its lines; its plain words follow from them.
      if (message.letter) inLetter(message.letter.lines, `${part.field}.letter.lines`, add);
      else add(`${part.field}.body`, "words", message.body);
      message.others?.forEach((other, index) => {
        add(`${part.field}.others.${index}.heading`, `subject of wording ${index + 2}`, other.heading);
        add(`${part.field}.others.${index}.body`, `wording ${index + 2}`, other.body);
      });
    }
  }
  return found;
}

interface LetterLine {
  kind: string;
  words?: string;
  who?: string;
  items?: string[];
  columns?: { lines: LetterLine[] }[];
}
function inLetter(lines: LetterLine[], path: string, add: (path: string, what: string, text: unknown) => void): void {
  lines.forEach((line, at) => {
    add(`${path}.${at}.words`, line.kind, line.words);
    add(`${path}.${at}.who`, line.kind, line.who);
    line.items?.forEach((item, number) => add(`${path}.${at}.items.${number}`, line.kind, item));
    line.columns?.forEach((column, number) => inLetter(column.lines, `${path}.${at}.columns.${number}.lines`, add));
  });
}

/** The text with other words in place of some, wherever they stand, in either case; merge fields are left alone. */
export function replaced(text: string, find: string, by: string): string {
  if (!find) return text;
  const pattern = new RegExp(find.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"), "gi");
  return text
    .split(/(\{\{[^}]*\}\})/)
    .map((piece) => (piece.startsWith("{{") ? piece : piece.replace(pattern, (found) => inCase(by, found))))
    .join("");
}

/** Words that take the place of others begin with a capital where those did. */
function inCase(words: string, found: string): string {
  const capital = found.charAt(0) !== found.charAt(0).toLowerCase();
  return capital ? words.charAt(0).toUpperCase() + words.slice(1) : words;
}
/** A text as people read it: merge fields by name, in brackets. */
export function readable(text: string): string {
  return text.replace(/\{\{\s*([\w.]+)[^}]*\}\}/g, (_, path: string) => `[${path.split(".").at(-1)?.replaceAll("_", " ")}]`);
}

/** Puts new texts in their places. */
export function put(doc: Doc, texts: Wording[]): void {
  for (const one of texts) {
    const step = stepOf(doc, one.step);
    if (step) setAt(step, one.path, one.text);
  }
}

/** A wait and a copy of a line below it, with words swapped; what comes after it in a series. */
export function next(step: Step, wait: Step, swaps: [string, string][], kinds: Map<string, Kind>): Step[] {
  const [pause, copy] = withNewIds([wait, step]) as [Step, Step];
  const swap = (text: string) => swaps.reduce((words, [from, to]) => replaced(words, from, to), text);
  for (const one of wordings([copy], kinds)) if (one.step === copy.id) setAt(copy, one.path, swap(one.text));
  return [pause, copy];
}
