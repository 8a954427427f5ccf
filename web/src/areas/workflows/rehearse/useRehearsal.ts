/** The rehearsal of the draft: who, from when, what they answer at each wait, how far it is shown; and its scenarios. */
import { useQuery } from "@tanstack/vue-query";
import { computed, ref, watch, type Ref } from "vue";

import { useRead } from "@/queries/account";
import { api, ok, type Schemas } from "@/api/client";
import { numberOf, stepOf, walk, type Doc } from "@/areas/workflows/script/document";
import { plain } from "@/sentences/written";

/** What happens at a wait: in words, and as scenarios write it (none: nothing happens), so long after it began. */
export interface Answer {
  words: string;
  act: Record<string, unknown> | null;
  after: string;
}
/** By the line that waits: what happens there; in a conversation one after the other. */
export type Answers = Record<string, Answer[]>;
export type Rehearsing = ReturnType<typeof useRehearsal>;

export function useRehearsal(
  account: Ref<string>,
  workflow: number,
  doc: Ref<Doc>,
  settled: Ref<Doc>,
  start: Ref<string>,
  active: () => boolean,
) {
  const contact = ref<number>();
  /** Somebody who does not exist, when no contact is chosen. */
  const invented = ref({
    first_name: "Robin",
    last_name: "Vane",
    email: "robin@example.com",
    mobile: null as string | null, // the server takes one of the account's country that nobody has; "" is none
    tags: [] as string[],
    appointment: null as Schemas["SomeAppointment"] | null,
  });
  /** What becomes of an appointment on the way. */
  const moves = ref<Schemas["MoveIn"][]>([]);
  const answers = ref<Answers>({});
  const scenario = ref("");
  const toTheEnd = ref(false);
  /** How many of the things that happened are shown; none: all. */
  const upTo = ref<number>();
  const nth = computed(() => numberOf(settled.value));
  const path = computed(() => ({ account: account.value }));

  /** Whether a line talks with them, so that it is answered more than once. */
  const talks = (step: string) => stepOf(doc.value, step)?.kind === "booking_assistant";
  function asked(): Schemas["RehearseIn"] {
    const plainly = ({ act, after }: Answer) => ({ act, after });
    const given = Object.fromEntries(
      Object.entries(answers.value).flatMap(([step, said]) => {
        const [first] = said;
        return first ? [[step, talks(step) ? said.map(plainly) : plainly(first)]] : [];
      }),
    );
    return {
      document: settled.value,
      contact_id: contact.value ?? null,
      invented: invented.value,
      start: start.value || null,
      answers: given,
      moves: moves.value,
      scenario: scenario.value,
      to_the_end: toTheEnd.value,
    };
  }
  const { data: outcome, error } = useQuery({
    queryKey: ["rehearsal", account, workflow, nth, start, contact, invented, answers, moves, scenario, toTheEnd],
    queryFn: () => ok(api.POST("/api/accounts/{account}/rehearse", { params: { path: path.value }, body: asked() })),
    enabled: active,
    placeholderData: (before) => before,
    gcTime: 10_000,
  });
  const scenarios = computed(() => doc.value.scenarios ?? []);
  const { data: verdicts } = useQuery({
    queryKey: ["scenarios", account, workflow, nth],
    queryFn: () => ok(api.POST("/api/accounts/{account}/scenarios", { params: { path: path.value }, body: settled.value })),
    enabled: () => scenarios.value.length > 0,
    placeholderData: (before) => before,
    gcTime: 10_000,
  });
  const failing = computed(() => (scenarios.value.length ? (verdicts.value?.verdicts.filter((one) => one.failures.length) ?? []) : []));
  const { data: moments } = useRead("/moments", undefined, { enabled: active });

  const all = computed(() => outcome.value?.lines ?? []);
  const shown = computed(() => (upTo.value === undefined ? all.value : all.value.slice(0, upTo.value)));
  /** Whether a question waits, and all before it is shown. */
  const awaits = computed(() => (shown.value.length === all.value.length ? (outcome.value?.awaits ?? "") : ""));

  function answer(step: string, given: Answer): void {
    answers.value = { ...answers.value, [step]: talks(step) ? [...(answers.value[step] ?? []), given] : [given] };
    if (upTo.value !== undefined) upTo.value = shown.value.length + 1;
  }
  /** Takes the answer at a line back, and those given after it. */
  function takeBack(step: string): void {
    const order = [...walk(doc.value.steps)].map((one) => one.id);
    const from = order.indexOf(step);
    const kept = Object.fromEntries(Object.entries(answers.value).filter(([id]) => order.indexOf(id) < from));
    const before = (answers.value[step] ?? []).slice(0, -1);
    answers.value = before.length ? { ...kept, [step]: before } : kept;
    toTheEnd.value = false;
    upTo.value = undefined;
  }
  function again(): void {
    answers.value = {};
    moves.value = [];
    scenario.value = "";
    toTheEnd.value = false;
    upTo.value = undefined;
  }
  /** To the next, or the last, thing that happened at a line. */
  function step(by: 1 | -1): void {
    let next = (upTo.value ?? (by > 0 ? 0 : all.value.length)) + by;
    while (next > 1 && next < all.value.length && !all.value[next - 1]?.step) next += by;
    if (next === 1 && by > 0 && !all.value[0]?.step) next = 2;
    upTo.value = Math.min(Math.max(next, 1), all.value.length);
  }
  /** As if nothing more were answered. */
  function goToTheEnd(): void {
    upTo.value = undefined;
    toTheEnd.value = true;
  }
  watch([contact, invented, start, moves], () => (upTo.value = undefined));
  // Somebody else is rehearsed by choosing them: not the scenario any more.
  watch(contact, () => (scenario.value = ""));

  /** The rehearsal as a scenario, put into the draft; answers its name, and whether it was kept already. */
  async function keep(change: (what: (doc: Doc) => void) => void): Promise<{ name: string; already: boolean }> {
    const said = [
      ...Object.values(answers.value)
        .flat()
        .map((one) => one.words),
      ...moves.value.map((one) => (one.to ? "the appointment moves" : "the appointment is cancelled")),
    ];
    const words = said.length ? said.join(", then ") : "Nothing is answered";
    const base = `${words.charAt(0).toUpperCase()}${words.slice(1)}`.slice(0, 150);
    const taken = new Set(scenarios.value.map((one) => one.name));
    let name = base;
    for (let number = 2; taken.has(name); number++) name = `${base} (${number})`;
    const { scenario: kept, already } = await ok(
      api.POST("/api/accounts/{account}/rehearse/keep", { params: { path: path.value, query: { name } }, body: asked() }),
    );
    if (already) return { name: already, already: true };
    change((draft) => void (draft.scenarios = [...(draft.scenarios ?? []), plain(kept)] as typeof draft.scenarios));
    return { name, already: false };
  }
  async function typical() {
    return ok(api.POST("/api/accounts/{account}/typical", { params: { path: path.value }, body: asked() }));
  }
  const series = (apart: number) =>
    ok(
      api.POST("/api/accounts/{account}/own-copies", { params: { path: path.value }, body: { ...asked(), workflow_id: workflow, apart } }),
    );

  return {
    contact,
    invented,
    answers,
    moves,
    scenario,
    toTheEnd,
    upTo,
    outcome,
    error,
    scenarios,
    verdicts,
    failing,
    moments,
    all,
    shown,
    awaits,
    answer,
    takeBack,
    again,
    step,
    goToTheEnd,
    keep,
    typical,
    series,
  };
}
