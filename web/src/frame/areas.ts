/** The areas of an account, in the order of the work. */
export interface Area {
  name: string;
  words: string;
  /** Only there where something outside is simulated. */
  simulated?: boolean;
}
export const AREAS: Area[] = [
  { name: "today", words: "Today" },
  { name: "people", words: "People" },
  { name: "workflows", words: "Workflows" },
  { name: "diary", words: "Diary" },
  { name: "outside", words: "Outside", simulated: true },
];
