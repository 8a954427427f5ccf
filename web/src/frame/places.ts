/** Where Ctrl+K leads besides what the account itself has: pages, settings and acts. `also`: words by which one is looked for
 * that do not stand in its name. `right`: only offered to who may. */
export interface Place {
  words: string;
  /** The page. */
  name: string;
  /** The question that is opened there. */
  ask?: string;
  also?: string;
  right?: string;
}

export const PLACES: Place[] = [
  { words: "Today", name: "today", also: "calls tasks" },
  { words: "Replies", name: "replies", also: "inbox answers texts emails written waiting" },
  { words: "People", name: "people", also: "contacts everybody" },
  { words: "Deals", name: "deals", also: "pipeline stages won lost" },
  { words: "Lead score", name: "score", also: "set-up points marks rules ready warm cool", right: "set-up" },
  { words: "Pipelines", name: "pipelines", also: "set-up settings stages deals reasons lost", right: "set-up" },
  { words: "Messages", name: "messages", also: "library emails texts wordings" },
  { words: "Workflows", name: "workflows", also: "follow-ups" },
  { words: "Diary", name: "diary", also: "calendar what goes out" },
  { words: "Results", name: "results", also: "report figures what worked aims reached rates statistics" },
  { words: "Results of messages", name: "results-messages", also: "report channels senders wordings clicks replies failed" },
  { words: "What the team did", name: "results-team", also: "report calls members" },
  { words: "Where people came from", name: "results-sources", also: "report sources leads" },
  { words: "Segments", name: "segments", also: "conditions groups" },
  { words: "Forms", name: "forms", also: "questions" },
  { words: "Words that come in", name: "words", also: "keywords rules strangers" },
  { words: "Sources of leads", name: "leads", also: "webhook advert" },
  { words: "Fields, tags and lists", name: "sorting", also: "merge rename" },
  { words: "Consent", name: "consent", also: "policy settings opt out own page", right: "set-up" },
  {
    words: "The business",
    name: "set-up",
    also: "set-up settings name address phone signature zone language currency details",
    right: "set-up",
  },
  { words: "Hours and days off", name: "hours", also: "set-up settings opening quiet holidays closed", right: "set-up" },
  { words: "Brand", name: "brand", also: "set-up settings logo picture colour contrast closing lines", right: "set-up" },
  {
    words: "Senders",
    name: "senders",
    also: "set-up settings email address number from domain dns dkim spf dmarc reply",
    right: "set-up",
  },
  { words: "House rules", name: "rules", also: "set-up settings limits pause speed", right: "set-up" },
  { words: "Going live", name: "live", also: "set-up launch missing", right: "set-up" },
  { words: "The team", name: "team", also: "set-up settings invite roles rights away stand in leave members", right: "set-up" },
  { words: "Invite somebody", name: "team", ask: "invite", also: "team member", right: "set-up" },
  { words: "Myself", name: "myself", also: "password second step passkey sessions sign in notices away" },
  { words: "What changed", name: "changes", also: "set-up settings audit trail history who", right: "set-up" },
  { words: "The same person twice", name: "duplicates", also: "duplicates merge", right: "import" },
  { words: "What waits", name: "aside", also: "held stopped failed aside uncertain" },
  { words: "Where things are used", name: "uses", also: "names" },
  { words: "Begin from a script", name: "starters", also: "starters examples" },
  { words: "Write a message", name: "messages", ask: "new", also: "library", right: "workflows" },
  { words: "Write a new workflow", name: "workflows", ask: "new", right: "workflows" },
  { words: "Enrol people", name: "workflows", ask: "enrol", also: "start put in", right: "people" },
  { words: "Bring in a file", name: "import", also: "import csv spreadsheet vcard", right: "import" },
  { words: "Type people in, a line each", name: "quick", also: "quick entry", right: "people" },
  { words: "Add one person", name: "people", ask: "new", also: "contact new", right: "people" },
  { words: "Make a form", name: "forms", ask: "new", also: "new", right: "workflows" },
];

/** The places that have all the words, those that begin with them first. */
export function placesFor(typed: string, may: (right: string) => boolean): Place[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const begins = (one: Place) => (one.words.toLowerCase().startsWith(words[0] ?? "") ? 0 : 1);
  return PLACES.filter(
    (one) => (!one.right || may(one.right)) && words.every((word) => ` ${one.words} ${one.also ?? ""}`.toLowerCase().includes(` ${word}`)),
  ).sort((a, b) => begins(a) - begins(b));
}
