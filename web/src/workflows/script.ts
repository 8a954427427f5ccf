/** What the parts of the workflow page share: the draft, what is selected, what the server read from it. */
import { inject, type InjectionKey, type Ref } from "vue";

import type { Schemas } from "@/api/client";
import type { Doc, Kind, Step } from "./document";
import type { Answer, Answers } from "./useRehearsal";
import type { Book } from "./written";

export type Look = "write" | "rehearse" | "watch";
/** A number beside a line: who is here, went on, or left. */
export interface Behind {
  step: string;
  number: "here" | "passed" | "left";
}

export interface Script {
  account: Ref<string>;
  doc: Ref<Doc>;
  kinds: Ref<Map<string, Kind>>;
  book: Ref<Book>;
  events: Ref<string[]>;
  /** Names of the account by kind, with what is worth knowing of each. */
  names: Ref<Record<string, Schemas["NameOut"][]>>;
  /** Resolves once the names are there, or could not be read. */
  namesRead: () => Promise<void>;
  ownFields: Ref<Record<string, string>>;
  /** Lines that make a task, which others can wait for. */
  tasks: Ref<{ id: string; words: string }[]>;
  look: Ref<Look>;
  mayWrite: Ref<boolean>;
  /** The id of the selected line or lane; "" for none. */
  selected: Ref<string>;
  /** What the notes are about: what is selected, a moment later. */
  noted: Ref<string>;
  /** All selected lines, in their order; the selected one is among them. */
  chosen: Ref<Set<string>>;
  /** Ids of lanes whose lines are folded away. */
  folded: Ref<Set<string>>;
  /** Where a new line is being typed: the run (a lane's id, "" for the script) and the index in it. */
  /** Words that stand in the field for a new line when it opens. */
  unwritten: Ref<string>;
  addBelow: (words?: string) => void;
  adding: Ref<{ lane: string; index: number } | undefined>;
  readings: Ref<Map<string, Schemas["LineReading"]>>;
  checks: Ref<Map<string, Schemas["Check"][]>>;
  rehearsed: Ref<Map<string, Schemas["RehearsedLine"][]>>;
  awaits: Ref<string>;
  answers: Ref<Answers>;
  /** What may happen at the line that awaits an answer. */
  offers: Ref<Schemas["OfferOut"][]>;
  answer: (step: string, given: Answer) => void;
  takeBack: (step: string) => void;
  /** The line that a rehearsal came to last, going step by step; "" otherwise. */
  steppedTo: Ref<string>;
  /** Lines to which no scenario comes; none while there are no scenarios. */
  uncovered: Ref<Set<string>>;
  counts: Ref<Map<string, Schemas["LineCount"]>>;
  /** The number beside a line whose people are shown. */
  watching: Ref<Behind | undefined>;
  /** Merge fields by path, with what to call them. */
  fields: Ref<Map<string, string>>;
  accountName: Ref<string>;
  memberName: Ref<string>;
  change: (what: (doc: Doc) => void, key?: string) => void;
  select: (id: string, focus?: boolean, extend?: boolean) => void;
  insert: (steps: Step[]) => void;
  mend: (check: Schemas["Check"]) => void;
  /** To the notes column: to the field there, else to the first one. */
  toNotes: (field?: string) => void;
  fold: (lane: string) => void;
  /** The selected lane one place to the left (-1) or right (1). */
  moveLane: (by: -1 | 1) => void;
}

export const SCRIPT: InjectionKey<Script> = Symbol("script");

export function useScript(): Script {
  const script = inject(SCRIPT);
  if (!script) throw new Error("there is no script around this");
  return script;
}
