/** The letter of a line of the script, as it is written: changed in the draft, so that it is kept, undone and merged as everything in it. */
import { computed, inject, nextTick, provide, ref, type ComputedRef, type InjectionKey, type Ref } from "vue";

import type { Schemas } from "@/api/client";
import { plain, type Sentence, type Values } from "@/sentences/written";
import { newId, stepOf, type Doc } from "../script/document";
import { useScript } from "../script/script";

export type Letter = { preview: string; lines: Line[] };
export type Line = { id: string; kind: string; columns?: { lines: Line[] }[] } & Values;
/** Which lines: of the letter itself, or of a column of one of its lines. */
export type Run = { line: string; column: number } | undefined;
export type LetterKind = Schemas["CatalogueLetterLine"];

export interface Writing {
  letter: ComputedRef<Letter | null>;
  kinds: Map<string, LetterKind>;
  fields: Ref<Schemas["MergeFieldOut"][]>;
  selected: Ref<string>;
  /** The line that was just added: it is written in at once. */
  fresh: Ref<string>;
  open: Ref<boolean>;
  /** What a line is kept below, for editors that are about it. */
  at: (line: string) => string;
  set: (line: string, field: string, value: unknown) => void;
  /** At the end of a run, or below a line of it. */
  add: (at: { run: Run } | { below: string }, kind: string, values?: Values) => void;
  remove: (line: string) => void;
  move: (line: string, by: -1 | 1) => void;
  /** The line that is being dragged. */
  dragged: Ref<string>;
  /** Before which it would come to stand: the id of a line, or the run whose end it is. */
  aim: Ref<string>;
  /** Of a line that is dragged; a file is none, which a picture takes. */
  over: (event: DragEvent, aim: string) => void;
  /** Before a line, or at the end of a run. */
  drop: (event: DragEvent, at: { run: Run } | { before: string }) => void;
  setPreview: (words: string) => void;
}
const WRITING: InjectionKey<Writing> = Symbol("letter");

interface Message {
  body: string;
  letter?: Letter | null;
}

/** The message of a line below a field of it ("message"), or another wording of one ("message.others.0"). */
export function messageOf(doc: Doc, step: string, field: string): (Message & Values) | null {
  let found: unknown = stepOf(doc, step);
  for (const name of field.split(".")) found = (found as Values | null | undefined)?.[name];
  return (found as (Message & Values) | null | undefined) ?? null;
}
/** A letter that says what plain words said: a paragraph for each. */
export function fromWords(body: string): Letter {
  const paragraphs = body.split(/\n\s*\n/).filter((words) => words.trim());
  const literal = (words: string) =>
    words
      .split(/(\{\{[^}]*\}\})/)
      .map((piece) => (piece.startsWith("{{") ? piece : piece.replace(/[\\*_[\]&]/g, "\\$&")))
      .join("");
  return { preview: "", lines: paragraphs.map((words) => ({ id: newId("l"), kind: "paragraph", words: literal(words.trim()) })) };
}
function runOf(letter: Letter, run: Run): Line[] {
  return run ? (letter.lines.find((one) => one.id === run.line)?.columns?.[run.column]?.lines ?? []) : letter.lines;
}
/** The run that a line stands in, and its place there. */
function placeOf(letter: Letter, id: string): { run: Line[]; index: number } | undefined {
  const runs = [letter.lines, ...letter.lines.flatMap((one) => one.columns?.map((column) => column.lines) ?? [])];
  for (const run of runs) {
    const index = run.findIndex((one) => one.id === id);
    if (index >= 0) return { run, index };
  }
  return undefined;
}
export function lineOf(letter: Letter | null, id: string): Line | undefined {
  const place = letter && placeOf(letter, id);
  return place ? place.run[place.index] : undefined;
}

export function provideLetter(step: string, field: string, kinds: LetterKind[], fields: Ref<Schemas["MergeFieldOut"][]>): Writing {
  const script = useScript();
  const selected = ref("");
  const fresh = ref("");
  const letter = computed(() => (messageOf(script.doc.value, step, field)?.letter ?? null) as Letter | null);
  const change = (what: (letter: Letter) => void, key = "") =>
    script.change(
      (doc) => {
        const now = messageOf(doc, step, field)?.letter;
        if (now) what(now);
      },
      key && `letter-${step}-${field}-${key}`,
    );
  const focus = async (id: string) => {
    selected.value = id;
    await nextTick();
    const line = document.querySelector(`[data-line="${id}"]`);
    const places = [".writing", "input:not([type='file'])", ".kind"].map((one) => line?.querySelector<HTMLElement>(one));
    places.find(Boolean)?.focus();
  };
  const writing: Writing = {
    letter,
    kinds: new Map(kinds.map((kind) => [kind.kind, kind])),
    fields,
    selected,
    fresh,
    open: computed(() => script.mayWrite.value),
    at: (line) => `${step}-${field}-${line}`,
    set: (line, name, value) =>
      change((now) => {
        const place = placeOf(now, line);
        if (place) (place.run[place.index] as Values)[name] = value;
      }, `${line}-${name}`),
    add: (at, kind, values = {}) => {
      const id = newId("l");
      fresh.value = Object.keys(values).length ? "" : id; // who has written it already writes the next
      const blank = plain((writing.kinds.get(kind) as Sentence).blank) as Values;
      change((now) => {
        const line = { ...blank, ...values, id, kind } as Line;
        const place = "below" in at ? placeOf(now, at.below) : undefined;
        if (place) place.run.splice(place.index + 1, 0, line);
        else runOf(now, "run" in at ? at.run : undefined).push(line);
      });
      if (!fresh.value) return;
      const first = (writing.kinds.get(kind)?.parts ?? [])[0];
      if (first && ["rich", "things"].includes(first.sort))
        selected.value = id; // an editor of words takes the focus itself
      else void focus(id);
    },
    remove: (line) => {
      const place = letter.value && placeOf(letter.value, line);
      const near = place ? (place.run[place.index - 1] ?? place.run[place.index + 1]) : undefined;
      change((now) => {
        const found = placeOf(now, line);
        found?.run.splice(found.index, 1);
      });
      if (near) void focus(near.id);
    },
    move: (line, by) => {
      change((now) => {
        const found = placeOf(now, line);
        if (!found || !found.run[found.index + by]) return;
        const [one] = found.run.splice(found.index, 1);
        if (one) found.run.splice(found.index + by, 0, one);
      });
      void focus(line);
    },
    dragged: ref(""),
    aim: ref(""),
    over: (event, aim) => {
      if (!writing.dragged.value) return;
      event.preventDefault();
      event.stopPropagation();
      writing.aim.value = aim;
    },
    drop: (event, at) => {
      const id = writing.dragged.value;
      if (!id) return;
      event.preventDefault();
      event.stopPropagation();
      writing.dragged.value = writing.aim.value = "";
      change((now) => {
        const from = placeOf(now, id);
        const line = from?.run[from.index];
        const to = "before" in at ? placeOf(now, at.before)?.run : runOf(now, at.run);
        if (!from || !to || !line || (to !== now.lines && line.columns)) return; // no columns within columns
        if ("before" in at && at.before === id) return;
        from.run.splice(from.index, 1);
        to.splice("before" in at ? to.findIndex((one) => one.id === at.before) : to.length, 0, line);
      });
      void focus(id);
    },
    setPreview: (words) => change((now) => void (now.preview = words), "preview"),
  };
  provide(WRITING, writing);
  return writing;
}

export function useLetter(): Writing {
  const writing = inject(WRITING);
  if (!writing) throw new Error("there is no letter around this");
  return writing;
}
