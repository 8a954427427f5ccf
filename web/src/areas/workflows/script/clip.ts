/** Lines that were copied or cut: kept in the browser, so that they can be pasted into another workflow or account. */
import type { Step } from "./document";

const KEY = "bluffside-lines";

export interface Clip {
  account: string;
  steps: Step[];
}

/** `words` go to the clipboard of the machine, for letters and documents. */
export function keepClip(clip: Clip, words: string): void {
  localStorage.setItem(KEY, JSON.stringify(clip));
  navigator.clipboard?.writeText(words).catch(() => undefined); // not allowed: the lines themselves are kept all the same
}

export function readClip(): Clip | undefined {
  try {
    const clip = JSON.parse(localStorage.getItem(KEY) ?? "null") as Clip | null;
    return clip?.steps?.length ? clip : undefined;
  } catch {
    return undefined;
  }
}
