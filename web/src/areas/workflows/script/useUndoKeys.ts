/** Ctrl+Z, and Ctrl+Shift+Z or Ctrl+Y, anywhere on a page that writes a draft. `here`: whether it is this page that they are about; of pages that stand
 * within each other one alone may say so, or each key would be obeyed twice. */
import { useEventListener } from "@vueuse/core";

import type { useDraft } from "./useDraft";

export function useUndoKeys(draft: ReturnType<typeof useDraft>, here: (event: KeyboardEvent) => boolean): void {
  useEventListener(window, "keydown", (event: KeyboardEvent) => {
    const letter = event.key.toLowerCase();
    if (!(event.ctrlKey || event.metaKey) || (letter !== "z" && letter !== "y")) return;
    if (!here(event)) return; // an editor that undoes by itself keeps its keys to itself
    event.preventDefault();
    if (event.shiftKey || letter === "y") draft.redo();
    else draft.undo();
  });
}
