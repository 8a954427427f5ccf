/** What is said of an act, in one place that is always in sight: what was done, with what takes it back, or why it was
 * refused. What is said next takes its place, and with it the undo, so that an undo is always of what was just said. */
import { shallowRef } from "vue";

import { ApiError } from "@/api/client";

export interface Told {
  words: string;
  sort: "done" | "fault";
  /** Answers what is said of it where "Taken back." is not the whole of it. */
  undo?: () => Promise<unknown>;
  /** ms that it stays, where what it offers does not last; else an undo stays until it is closed or something else is said. */
  lasts?: number;
}
export const told = shallowRef<Told>();
const LASTS = 8_000; // ms; a fault, and what can be taken back, stay until they are closed or something else is said
let timer = 0;

function say(next: Told): void {
  window.clearTimeout(timer);
  told.value = next;
  const lasts = next.lasts ?? (next.sort === "done" && !next.undo ? LASTS : 0);
  if (lasts) timer = window.setTimeout(hush, lasts);
}
export function hush(): void {
  window.clearTimeout(timer);
  told.value = undefined;
}
/** `words` are a sentence: "50 contacts got the tag “spring”." */
export function tell(words: string, undo?: () => Promise<unknown>, lasts?: number): void {
  say({ words, sort: "done", undo, lasts });
}
export function tellFault(error: unknown): void {
  say({ words: error instanceof Error ? error.message : String(error), sort: "fault" });
}
/** Takes back what was just said. */
export async function takeBack(): Promise<void> {
  const undo = told.value?.undo;
  if (!undo) return;
  hush();
  try {
    const said = await undo();
    tell(typeof said === "string" ? said : "Taken back.");
  } catch (error) {
    tellFault(error);
  }
}

/** A refusal that no page has dealt with is told anyway: none is silent. */
export function tellWhatNobodyTold(): void {
  window.addEventListener("unhandledrejection", (event) => {
    if (!(event.reason instanceof ApiError)) return;
    event.preventDefault();
    tellFault(event.reason);
  });
}
