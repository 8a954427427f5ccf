/** Settings are shown as changed at once, so that what is changed next begins from it, and are kept one after the other; each
 * change is told with what takes it back. */
import { hush, tell } from "@/ui/told";

interface Change {
  show: () => unknown;
  /** Answers whether it was kept; a refusal is said already. */
  keep: () => Promise<boolean>;
  undo: () => Promise<unknown>;
  /** Reads again what the change touched, or what was shown and not kept. */
  after: () => Promise<unknown>;
}

export function useKeeping() {
  let last: Promise<unknown> = Promise.resolve();
  return ({ show, keep, undo, after }: Change) => {
    hush(); // an undo is of what was just changed, never of what was before it
    show();
    last = last.then(async () => {
      if (await keep())
        tell("Kept.", async () => {
          await undo();
          await after();
        });
      await after();
    });
  };
}
