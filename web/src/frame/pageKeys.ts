/** The keys of each page, by its name in the address; those that work everywhere come after them. The workflow page shows its
 * own (workflows/KeysAsk.vue). */
export type Keys = readonly [string, string][];

export const PAGE_KEYS: Record<string, Keys> = {
  today: [
    ["1 to 5", "of the open call: how it went; 5 asks when to ring back"],
    ["↑ ↓", "from call to call"],
    ["1, 2", "of what may be a refusal: whether they want out"],
  ],
  diary: [
    ["← →", "earlier, later"],
    ["T", "to today"],
  ],
  quick: [["Ctrl Enter", "keep everybody who is understood"]],
};
export const EVERYWHERE: Keys = [
  ["Ctrl K", "to a person, a workflow, a page, something to do"],
  ["Ctrl J", "switch account"],
  ["Ctrl Z", "take back what was just done, while it is said below that it can be"],
  ["Esc", "out of a dialog, a list, a menu"],
  ["?", "these keys"],
];
