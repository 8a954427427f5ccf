/** What keys mean depends on where they are pressed. */
export const TYPING = "input, select, textarea, [contenteditable='true']";

/** Whether a key was pressed on the page itself: nothing has the focus, or what is only read has it. */
export function onPaper(target: EventTarget | null): boolean {
  return target === document.body || (target instanceof HTMLElement && target.matches("main, h1"));
}
