/** Two people's changes to one draft put together: each against what both began from.
 *
 * What only one of them changed is taken. Lines are known by their ids, so two who write different lines, or different
 * parts of one line, never get in each other's way. Where both changed the same part differently it is a clash: it is
 * named, and a person decides. */
import { lanesOf, stepOf, walk, type Doc, type Lane, type Step } from "./document";
import { same } from "./written";

type Plain = Record<string, unknown>;

export interface Merged {
  doc: Doc;
  /** What both changed, in words; in the merged draft ours stands there. */
  clashes: string[];
}

export function merged(base: Doc, ours: Doc, theirs: Doc): Merged {
  const clashes: string[] = [];
  const [was, mine, their] = [flat(base), flat(ours), flat(theirs)];
  const steps = new Map<string, Plain>();
  const runs = new Map<string, string[]>();
  for (const id of new Set([...their.steps.keys(), ...mine.steps.keys()])) {
    const [a, b, c] = [was.steps.get(id), mine.steps.get(id), their.steps.get(id)];
    const changed = b && c ? values(a ?? {}, b, c, () => clashes.push(nameOf(ours, id))) : (b ?? c);
    if (changed) steps.set(id, changed);
    const gone = a && !(b && c) ? (b ?? c) : undefined; // one of us took it out
    if (gone && !same(gone, a)) clashes.push(`${nameOf(b ? ours : theirs, id)}, which one of you took out`);
  }
  for (const id of new Set([...their.runs.keys(), ...mine.runs.keys()]))
    runs.set(id, order(was.runs.get(id) ?? [], mine.runs.get(id) ?? [], their.runs.get(id) ?? [], () => clashes.push("the order of the lines")));
  const head = values(was.head, mine.head, their.head, (field) => clashes.push(HEADS[field] ?? field));
  return { doc: { ...(head as unknown as Doc), steps: built(runs, steps) }, clashes: [...new Set(clashes)] };
}

const HEADS: Record<string, string> = { name: "the name", starts: "what starts it", entry: "who may come in", leaves_on: "when people leave", hours: "the sending hours", description: "the description" };

/** The head, each line without the lines in its lanes, and the order of every run by the id of its lane. */
function flat(doc: Doc): { head: Plain; steps: Map<string, Plain>; runs: Map<string, string[]> } {
  const { steps: top, ...head } = doc;
  const steps = new Map<string, Plain>();
  const runs = new Map([["", top.map((step) => step.id)]]);
  for (const step of walk(top)) {
    const lanes = lanesOf(step).map((lane) => ({ ...lane, steps: [] }));
    steps.set(step.id, lanes.length ? { ...step, lanes } : { ...step });
    for (const lane of lanesOf(step)) runs.set(lane.id, lane.steps.map((one) => one.id));
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
function values(base: Plain, ours: Plain, theirs: Plain, clash: (field: string) => void): Plain {
  const made: Plain = {};
  for (const field of new Set([...Object.keys(theirs), ...Object.keys(ours)])) {
    const [a, b, c] = [base[field], ours[field], theirs[field]];
    if (same(a, b)) made[field] = c;
    else if (same(a, c) || same(b, c)) made[field] = b;
    else if (isPlain(b) && isPlain(c)) made[field] = values(isPlain(a) ? a : {}, b, c, () => clash(field));
    else {
      clash(field);
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
