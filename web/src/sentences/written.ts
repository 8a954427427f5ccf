/** Sentences drawn from the catalogue: cut into words and parts that are edited in place, and said as plain words.
 *
 * Steps, triggers, tests and lanes are all alike here: something with a sentence, and a value of each of its parts. */
import type { Schemas } from "@/api/client";

export type Sentence = Schemas["CatalogueSentence"];
export type Part = Schemas["CataloguePart"];
export type Kind = Schemas["CatalogueKind"];
export type Values = Record<string, unknown>;
export type Condition = { test: string; of?: Condition[] } & Values;
export type Happening = { kind: string } & Values;
export type Piece = string | Part;

/** What parts need to be said: the other sentences of the catalogue, fields and lines by what they are called. */
export interface Book {
  tests: Map<string, Sentence>;
  triggers: Map<string, Schemas["CatalogueTrigger"]>;
  fieldName: (field: string) => string;
  lineName: (step: string) => string;
}

/** A part that no sentence of the catalogue has: the same editors serve it. */
export const aPart = (field: string, sort: Part["sort"], label: string, more: Partial<Part> = {}): Part => ({
  field,
  sort,
  label,
  empty: "…",
  clause: "",
  only: {},
  names: {},
  choices: [],
  usual: null,
  optional: false,
  least: null,
  most: null,
  message: null,
  ...more,
});

/** A plain copy: without the wrapping that queries and refs give their data. */
export function plain<T>(value: T): T {
  return JSON.parse(JSON.stringify(value)) as T;
}

export function same(one: unknown, other: unknown): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other);
}

/** Whether a part is there at all, given the values of the others. */
export function applies(part: Part, values: Values): boolean {
  const fits = (value: string, wanted: string) => (wanted.startsWith("*") ? value.endsWith(wanted.slice(1)) : value === wanted);
  return Object.entries(part.only ?? {}).every(([field, wanted]) => wanted.some((one) => fits(String(values[field] ?? null), one)));
}

/** A sentence cut into words and parts, with the clauses of what is not as usual. `stands` are words that the core says
 * for parts that are left open. */
export function pieces(sentence: Sentence, values: Values, book: Book, stands: Record<string, string> = {}): Piece[] {
  const found: Piece[] = [];
  const add = (words: string) => {
    if (typeof found.at(-1) === "string") found[found.length - 1] += words;
    else if (words) found.push(words);
  };
  const body = sentence.sentence.replace(/\.$/, "");
  const stop = sentence.sentence.slice(body.length);
  for (const piece of body.split(/(\{\w+\})/)) {
    const field = piece.match(/^\{(\w+)\}$/)?.[1];
    const part = field ? sentence.parts.find((one) => one.field === field) : undefined;
    if (!part) add(piece);
    else if (applies(part, values) && said(part, values[part.field], book, stands)) found.push(part);
    else if (typeof found.at(-1) === "string") found[found.length - 1] = (found.at(-1) as string).replace(/ $/, "");
  }
  for (const part of clauses(sentence, values, stands)) {
    const [before, after] = part.clause.split("{}");
    add(`, ${after === undefined ? "" : before}`);
    found.push(part);
    add(after ?? "");
  }
  add(stop);
  return found;
}

/** The parts whose clause is said: what is not as usual, or what the core has words for. */
function clauses(sentence: Sentence, values: Values, stands: Record<string, string>): (Part & { clause: string })[] {
  return sentence.parts.filter(
    (part): part is Part & { clause: string } =>
      !!part.clause &&
      !sentence.sentence.includes(`{${part.field}}`) &&
      (!same(values[part.field] ?? null, part.usual ?? null) || part.field in stands),
  );
}

/** Of what a part holds the name, where another part decides ("about": a form, a list …); empty where it holds none. */
export function namesOf(part: Part, values: Values): string {
  const found = Object.entries(part.names ?? {}).map(([field, sorts]) => sorts[String(values[field])]);
  return found.find(Boolean) ?? "";
}

/** The parts that the sentence does not show as things stand. */
export function unsaid(sentence: Sentence, values: Values, book: Book, stands: Record<string, string> = {}): Part[] {
  const shown = new Set(pieces(sentence, values, book, stands).flatMap((piece) => (typeof piece === "string" ? [] : [piece.field])));
  return sentence.parts.filter((part) => !shown.has(part.field) && applies(part, values));
}

/** The whole sentence as plain words. */
export function wordsOf(sentence: Sentence, values: Values, book: Book, stands: Record<string, string> = {}): string {
  return pieces(sentence, values, book, stands)
    .map((piece) => (typeof piece === "string" ? piece : said(piece, values[piece.field], book, stands)))
    .join("")
    .replace(/\s+/g, " ");
}

/** A part's value in words; what stands for none when it has none. */
export function said(part: Part, value: unknown, book: Book, stands: Record<string, string> = {}): string {
  if (part.sort === "rule" && stands[part.field]) return stands[part.field] as string;
  if (part.sort === "library" && value) return part.clause ?? "";
  if (part.sort === "yes-no" && part.clause && !part.clause.includes("{}") && value === true) return part.clause;
  if (part.sort === "money" && Number(value) === 0) return part.empty;
  const choice = part.choices?.find((one) => one.value === value);
  if (choice) return choice.words;
  if (value === null || value === undefined || value === "" || (Array.isArray(value) && !value.length))
    return stands[part.field] ?? part.empty;
  switch (part.sort) {
    case "weekdays":
      return days(value as string[]);
    case "channels":
      return (value as string[]).join(", then ");
    case "words":
      return (value as string[]).join(", ");
    case "date":
      return date(String(value));
    case "condition":
      return conditionWords(value as Condition, book);
    case "happening":
      return happeningWords(value as Happening, book);
    case "message":
      return (
        (value as { name: string }).name || `a new ${/ version$|letter$/.test(part.label) ? part.label.replace(" version", "") : "message"}`
      );
    case "assign":
      return assigned(value as Assign);
    case "by":
      return byWhom(value as By);
    case "field":
      return book.fieldName(String(value));
    case "step":
      return book.lineName(String(value));
    case "worth": {
      const { compare, amount } = value as { compare: string; amount: number };
      return `${compare.replaceAll("_", " ")} ${amount}`;
    }
    case "deeds": {
      const { compare, number, activity } = value as Deeds;
      return `${compare.replaceAll("_", " ")} ${number} ${part.choices?.find((one) => one.value === activity)?.words ?? activity}`;
    }
    case "length": {
      const { longer, than } = value as { longer: boolean; than: string };
      return `for ${longer ? "more than" : "at most"} ${than}`;
    }
    case "pairs":
      return (value as { name: string }[]).map((one) => one.name || "…").join(", ");
    default:
      if (Array.isArray(value)) return value.map((one) => part.choices?.find((choice) => choice.value === one)?.words ?? one).join(" or ");
      return String(value);
  }
}

/** How often something was done, against a number. */
export interface Deeds {
  compare: string;
  number: number;
  activity: string;
}

export interface Assign {
  to: "responsible" | "causer" | "owner" | "member" | "in_turn";
  members: string[];
}
export function assigned({ to, members }: Assign): string {
  const named = members.join(" and ") || "…";
  return {
    responsible: "the responsible member",
    causer: "whoever caused it",
    owner: "the owner of the deal",
    member: named,
    in_turn: `${named} in turn`,
  }[to];
}
export interface By {
  who: "anyone" | "anyone_but" | "only";
  member: string;
}
export function byWhom({ who, member }: By): string {
  return who === "anyone" ? "anyone" : who === "anyone_but" ? `anyone but ${member || "…"}` : member || "…";
}

export const DAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] as const;
export const DAY_NAMES: Record<string, string> = {
  mon: "Monday",
  tue: "Tuesday",
  wed: "Wednesday",
  thu: "Thursday",
  fri: "Friday",
  sat: "Saturday",
  sun: "Sunday",
};
export function days(chosen: string[]): string {
  const at = DAYS.flatMap((day, index) => (chosen.includes(day) ? [index] : []));
  const [first, last] = [at[0] ?? 0, at.at(-1) ?? 0];
  if (at.length === 7) return "any day";
  const name = (index: number) => DAY_NAMES[DAYS[index] as string] as string;
  return at.length > 2 && last - first + 1 === at.length ? `${name(first)} to ${name(last)}` : at.map(name).join(", ");
}
const MONTHS = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"];
function date(iso: string): string {
  const [year, month, day] = iso.split("-").map(Number);
  return `${day} ${MONTHS[(month ?? 1) - 1]} ${year}`;
}

const JOINED: Record<string, string> = { all: " and ", any: " or ", none: " or " };
export function conditionWords(condition: Condition, book: Book, inner = false): string {
  if (condition.of) {
    const parts = condition.of.map((one) => conditionWords(one, book, true)).join(JOINED[condition.test] as string) || "…";
    const said = condition.test === "none" ? `${condition.of.length > 1 ? "none of this" : "not so"}: ${parts}` : parts;
    return inner ? `(${said})` : said;
  }
  const test = book.tests.get(condition.test);
  return test ? wordsOf(test, condition, book).trim() : condition.test;
}
export function happeningWords(happening: Happening, book: Book): string {
  const trigger = book.triggers.get(happening.kind);
  return trigger ? wordsOf(trigger, happening, book) : happening.kind;
}
