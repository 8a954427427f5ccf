/** Two people's changes to one draft put together: each against what both began from.
 *
 * What only one of them changed is taken. Lines are known by their ids, so two who write different lines, or different
 * parts of one line, never get in each other's way. Where both changed the same part differently, or one took out what the
 * other wrote on, it is a clash: it is named with both sides' words, ours stands, and a person decides. */
import { lanesOf, stepOf, walk, type Doc, type Lane, type Step } from "./document";
import { same } from "@/sentences/written";

type Plain = Record<string, unknown>;

/** What both changed, and what each side says there, as far as words can show it. */
export interface Clash {
  what: string;
  ours: string;
  theirs: string;
}
export interface Merged {
  doc: Doc;
  /** In the merged draft ours stands there. */
  clashes: Clash[];
}

export function merged(base: Doc, ours: Doc, theirs: Doc): Merged {
  const clashes: Clash[] = [];
  const clash = (what: string, mine: unknown, their: unknown) => void clashes.push({ what, ours: shown(mine), theirs: shown(their) });
  const stays = new Set<string>(); // lines that we wrote on and they took out, with the lines whose lanes they stand in
  const [was, mine, their] = [flat(base), flat(ours), flat(theirs)];
  const steps = new Map<string, Plain>();
  const runs = new Map<string, string[]>();
  for (const id of new Set([...their.steps.keys(), ...mine.steps.keys()])) {
    const [a, b, c] = [was.steps.get(id), mine.steps.get(id), their.steps.get(id)];
    const changed = b && c ? values(a ?? {}, b, c, (_, mine, their) => clash(nameOf(ours, id), mine, their)) : (b ?? c);
    if (changed) steps.set(id, changed);
    if (!a || (b && c) || same(b ?? c, a)) continue;
    clash(nameOf(b ? ours : theirs, id), b ? wordsIn(b) : TAKEN_OUT, c ? wordsIn(c) : TAKEN_OUT); // one of us took it out
    if (b) for (const line of [id, ...within(ours, id)]) stays.add(line);
  }
  for (const id of new Set([...their.runs.keys(), ...mine.runs.keys()]))
    runs.set(
      id,
      order(was.runs.get(id) ?? [], mine.runs.get(id) ?? [], put(stays, mine.runs.get(id) ?? [], their.runs.get(id) ?? []), () =>
        clash("the order of the lines", "", ""),
      ),
    );
  const head = values(was.head, mine.head, their.head, (field, mine, their) => clash(HEADS[field] ?? field, mine, their));
  return {
    doc: { ...(head as unknown as Doc), steps: built(runs, steps) },
    clashes: [...new Map(clashes.map((one) => [one.what + one.ours, one])).values()],
  };
}

const TAKEN_OUT = "taken out";
/** What a line says, where it is a message; else that it stays. */
function wordsIn(step: Plain): unknown {
  const message = step.message as Plain | undefined;
  return message?.body ?? message?.text ?? "changed";
}
function shown(value: unknown): string {
  if (value === undefined || value === null || value === "") return "nothing";
  if (Array.isArray(value)) return value.every((one) => typeof one === "string") ? value.join(", ") : "changed";
  return typeof value === "object" ? "changed" : String(value).slice(0, 160);
}

/** The ids of the lines in whose lanes a line stands, the nearest first. */
function within(doc: Doc, id: string): string[] {
  for (const step of walk(doc.steps))
    if (lanesOf(step).some((lane) => lane.steps.some((one) => one.id === id))) return [step.id, ...within(doc, step.id)];
  return [];
}

/** A run of theirs in which lines of ours that stay are where they are with us. */
function put(stays: Set<string>, ours: string[], theirs: string[]): string[] {
  const made = [...theirs];
  ours.forEach((id, index) => {
    if (!stays.has(id) || made.includes(id)) return;
    const before = ours.slice(0, index).findLast((one) => made.includes(one));
    made.splice(before ? made.indexOf(before) + 1 : 0, 0, id);
  });
  return made;
}

const HEADS: Record<string, string> = {
  name: "the name",
  starts: "what starts it",
  entry: "who may come in",
  leaves_on: "when people leave",
  aim: "what it is for",
  hours: "the sending hours",
  description: "the description",
};

/** The head, each line without the lines in its lanes, and the order of every run by the id of its lane. */
function flat(doc: Doc): { head: Plain; steps: Map<string, Plain>; runs: Map<string, string[]> } {
  const { steps: top, ...head } = doc;
  const steps = new Map<string, Plain>();
  const runs = new Map([["", top.map((step) => step.id)]]);
  for (const step of walk(top)) {
    const lanes = lanesOf(step).map((lane) => ({ ...lane, steps: [] }));
    steps.set(step.id, lanes.length ? { ...step, lanes } : { ...step });
    for (const lane of lanesOf(step))
      runs.set(
        lane.id,
        lane.steps.map((one) => one.id),
      );
  }
  return { head, steps, runs };
}

function built(runs: Map<string, string[]>, steps: Map<string, Plain>): Step[] {
  const placed = new Set<string>();
  function run(lane: string): Step[] {
    const found: Step[] = [];
    for (const id of runs.get(lane) ?? []) {
      const step = steps.get(id);
      if (!step || placed.has(id)) continue;
      placed.add(id);
      const lanes = step.lanes as Lane[] | undefined;
      found.push((lanes ? { ...step, lanes: lanes.map((one) => ({ ...one, steps: run(one.id) })) } : step) as unknown as Step);
    }
    return found;
  }
  return run("");
}

/** Field by field, and inside objects too. */
function values(base: Plain, ours: Plain, theirs: Plain, clash: (field: string, ours: unknown, theirs: unknown) => void): Plain {
  const made: Plain = {};
  for (const field of new Set([...Object.keys(theirs), ...Object.keys(ours)])) {
    const [a, b, c] = [base[field], ours[field], theirs[field]];
    if (same(a, b)) made[field] = c;
    else if (same(a, c) || same(b, c)) made[field] = b;
    else if (isPlain(b) && isPlain(c)) made[field] = values(isPlain(a) ? a : {}, b, c, (_, mine, their) => clash(field, mine, their));
    else {
      clash(field, b, c);
      made[field] = b;
    }
  }
  return made;
}
function isPlain(value: unknown): value is Plain {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** Theirs, with what we put in put after the line it follows with us, and without what we took out. */
function order(base: string[], ours: string[], theirs: string[], clash: () => void): string[] {
  if (same(base, ours)) return theirs;
  if (same(base, theirs)) return ours;
  const kept = (list: string[]) => list.filter((id) => base.includes(id) && ours.includes(id) && theirs.includes(id));
  if (!same(kept(ours), kept(theirs))) clash();
  const from = same(kept(ours), kept(base)) ? theirs : ours;
  const other = from === theirs ? ours : theirs;
  const made = from.filter((id) => !base.includes(id) || other.includes(id));
  other.forEach((id, index) => {
    if (base.includes(id) || made.includes(id)) return;
    const before = other.slice(0, index).findLast((one) => made.includes(one));
    made.splice(before ? made.indexOf(before) + 1 : 0, 0, id);
  });
  return made;
}

function nameOf(doc: Doc, id: string): string {
  const step = stepOf(doc, id);
  const name = step && "message" in step ? step.message.name : "";
  return name ? `the line with “${name}”` : `a line (${step?.kind.replaceAll("_", " ") ?? "gone"})`;
}
