/** Where Ctrl+K leads besides what the account itself has: pages, settings and acts. `also`: words by which one is looked for
 * that do not stand in its name. `right`: only offered to who may. */
export interface Place {
  words: string;
  /** Below the account's address; `?ask=` opens that question on the page. */
  to: string;
  also?: string;
  right?: string;
}

export const PLACES: Place[] = [
  { words: "Today", to: "today", also: "calls tasks replies" },
  { words: "People", to: "people", also: "contacts everybody" },
  { words: "Workflows", to: "workflows", also: "follow-ups" },
  { words: "Diary", to: "diary", also: "calendar what goes out" },
  { words: "Segments", to: "people/segments", also: "conditions groups" },
  { words: "Forms", to: "people/forms", also: "brand questions" },
  { words: "Words that come in", to: "people/words", also: "keywords rules strangers" },
  { words: "Sources of leads", to: "people/leads", also: "webhook advert" },
  { words: "Fields, tags and lists", to: "people/sorting", also: "merge rename" },
  { words: "Consent", to: "people/consent", also: "policy settings opt out own page" },
  { words: "The same person twice", to: "people/duplicates", also: "duplicates merge", right: "import" },
  { words: "What waits", to: "workflows/waits", also: "held stopped failed aside uncertain" },
  { words: "Where things are used", to: "workflows/uses", also: "names" },
  { words: "Begin from a script", to: "workflows/starters", also: "starters examples" },
  { words: "Write a new workflow", to: "workflows?ask=new", right: "workflows" },
  { words: "Enrol people", to: "workflows?ask=enrol", also: "start put in", right: "people" },
  { words: "Bring in a file", to: "people/bring-in", also: "import csv spreadsheet vcard", right: "import" },
  { words: "Type people in, a line each", to: "people/quick", also: "quick entry", right: "people" },
  { words: "Add one person", to: "people?ask=new", also: "contact new", right: "people" },
  { words: "Make a form", to: "people/forms?ask=new", also: "new", right: "workflows" },
];

/** The places that have all the words, those that begin with them first. */
export function placesFor(typed: string, may: (right: string) => boolean): Place[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const begins = (one: Place) => (one.words.toLowerCase().startsWith(words[0] ?? "") ? 0 : 1);
  return PLACES.filter((one) => (!one.right || may(one.right)) && words.every((word) => ` ${one.words} ${one.also ?? ""}`.toLowerCase().includes(` ${word}`))).sort(
    (a, b) => begins(a) - begins(b),
  );
}
