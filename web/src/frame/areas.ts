/** The areas of an account, in the order of the work. */
export interface Area {
  name: string;
  words: string;
  /** Only there where something outside is simulated. */
  simulated?: boolean;
  /** Only for who may. */
  right?: string;
}
export const AREAS: Area[] = [
  { name: "today", words: "Today" },
  { name: "replies", words: "Replies" },
  { name: "people", words: "People" },
  { name: "deals", words: "Deals" },
  { name: "messages", words: "Messages" },
  { name: "workflows", words: "Workflows" },
  { name: "diary", words: "Diary" },
  { name: "results", words: "Results" },
  { name: "set-up", words: "Set-up", right: "set-up" },
  { name: "outside", words: "Outside", simulated: true },
];
