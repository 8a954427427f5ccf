/** Times, counts and numbers in words, as the whole application writes them: "Tue 3 Mar, 09:30", "1,204 people". Built on Intl
 * alone; the server says the same by core/words.py, and tests/words.json holds both to the same examples. */
const LANGUAGE = "en-GB";
const DAY = new Intl.DateTimeFormat(LANGUAGE, { weekday: "short", day: "numeric", month: "short", timeZone: "UTC" });
const DAY_OF_A_YEAR = new Intl.DateTimeFormat(LANGUAGE, {
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});
const NUMBERS = new Intl.NumberFormat(LANGUAGE);
const PLURALS = new Intl.PluralRules(LANGUAGE);

/** A local wall-clock time ("2026-03-03T09:30") in words, with its year when that is not the one of `now` (such a time, too;
 * without it, this year's). It has no zone, and none is applied. */
export function moment(local: string, now?: string): string {
  return `${dayOf(local, now)}, ${local.slice(11, 16)}`;
}

/** The day of a local time, or a day ("2026-03-03"): "Tue 3 Mar". */
export function dayOf(local: string, now = new Date().toISOString()): string {
  const at = new Date(`${local.slice(0, 10)}T00:00Z`);
  const words = (local.slice(0, 4) === now.slice(0, 4) ? DAY : DAY_OF_A_YEAR).format(at);
  return words.replace(",", "").replace("Sept", "Sep");
}

export function clockTime(local: string): string {
  return local.slice(11, 16);
}

export const number = (count: number): string => NUMBERS.format(count);

/** "£1,204.50", "£300": whole amounts without what is less. */
/** A size of a file, in the unit that says it in two or three digits. */
export function bytes(count: number): string {
  const units = ["byte", "kilobyte", "megabyte", "gigabyte"] as const;
  const at = Math.min(units.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, count)) / 3)));
  const unit = units[at] ?? "byte";
  return new Intl.NumberFormat(LANGUAGE, { style: "unit", unit, maximumSignificantDigits: 3 }).format(count / 1000 ** at);
}
export function money(amount: number, currency: string): string {
  return new Intl.NumberFormat(LANGUAGE, { style: "currency", currency }).format(amount).replace(/\.0+$/, "");
}

export function many(count: number, one: string, several = `${one}s`): string {
  return `${number(count)} ${PLURALS.select(count) === "one" ? one : several}`;
}

/** Words written with commas between them. */
export function cut(text: string): string[] {
  return text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
}

const AND = new Intl.ListFormat(LANGUAGE, { type: "conjunction" });
const OR = new Intl.ListFormat(LANGUAGE, { type: "disjunction" });
/** "a, b and c", or "a, b or c". */
export const several = (words: string[], joint: "and" | "or" = "and"): string => (joint === "or" ? OR : AND).format(words);

/** An instant by the clock of whoever looks: for what belongs to no account. */
export function hereAt(instant: string | Date): string {
  const at = new Date(instant);
  return moment(new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16));
}

/** A browser and where it runs, from what it says of itself: "Firefox on Linux" (as signing_in.sessions.browser). */
export function browserOf(agent: string): string {
  const name = NAMES.find(([mark]) => agent.includes(mark))?.[1] ?? "an unknown browser";
  const system = SYSTEMS.find(([mark]) => agent.includes(mark))?.[1];
  return system ? `${name} on ${system}` : name;
}
const NAMES = [
  ["Edg/", "Edge"],
  ["Firefox/", "Firefox"],
  ["Chrome/", "Chrome"],
  ["Safari/", "Safari"],
] as const;
const SYSTEMS = [
  ["Android", "Android"],
  ["iPhone", "an iPhone"],
  ["iPad", "an iPad"],
  ["Windows", "Windows"],
  ["Macintosh", "a Mac"],
  ["Linux", "Linux"],
] as const;

const ENOUGH = 20; // before a share is said: of fewer it tells nothing
export function share(count: number, of: number): string {
  return of >= ENOUGH ? `${Math.round((100 * count) / of)}%` : "";
}
/** "3 of 41, 7%"; without the share where there are too few. */
export function outOf(count: number, of: number): string {
  return [`${count} of ${of}`, share(count, of)].filter(Boolean).join(", ");
}
