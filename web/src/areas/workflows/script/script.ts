/** What the parts of the workflow page share: the draft, what is selected, what the server read from it. */
import { inject, provide, type InjectionKey, type Ref } from "vue";

import type { Schemas } from "@/api/client";
import { AROUND, type Around } from "@/sentences/around";
import type { Doc, Kind, Step } from "./document";
import type { Answer, Answers } from "@/areas/workflows/rehearse/useRehearsal";

export type Look = "write" | "rehearse" | "watch";
/** A number beside a line: who is here, went on, or left. */
export interface Behind {
  step: string;
  number: "here" | "passed" | "left";
}

export interface Script extends Around {
  account: Ref<string>;
  doc: Ref<Doc>;
  kinds: Ref<Map<string, Kind>>;
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
  /** Words that stand in the field for a new line when it opens. */
  unwritten: Ref<string>;
  addBelow: (words?: string) => void;
  /** Where a new line is being typed: the run (a lane's id, "" for the script) and the index in it. */
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
  accountName: Ref<string>;
  memberName: Ref<string>;
  change: (what: (doc: Doc) => void, key?: string) => void;
  select: (id: string, focus?: boolean, extend?: boolean) => void;
  insert: (steps: Step[]) => void;
  mend: (check: Schemas["Check"]) => void;
  fold: (lane: string) => void;
  /** The selected lane one place to the left (-1) or right (1). */
  moveLane: (by: -1 | 1) => void;
}

const SCRIPT: InjectionKey<Script> = Symbol("script");

/** The sentences within need a part of it, and know it by that. */
export function provideScript(script: Script): void {
  provide(SCRIPT, script);
  provide(AROUND, script);
}

export function useScript(): Script {
  const script = inject(SCRIPT);
  if (!script) throw new Error("there is no script around this");
  return script;
}
