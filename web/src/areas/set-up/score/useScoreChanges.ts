/** Changes to the rules of the scores: each is kept at once, in turn, and counts nothing until it is let. */
import { computed, type Ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered } from "@/queries/account";
import { useAccount } from "@/queries/session";
import type { Happening } from "@/sentences/written";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import type { Rules } from "./rules";

/** Marks that a new score begins with. */
const FIRST = [
  ["cool", 0],
  ["warm", 30],
  ["ready", 60],
] as const;

/** `of`: the score that is looked at; "" is the lead score. */
export function useScoreChanges(score: Ref<Schemas["ScoreOut"] | undefined>, of: Ref<string>) {
  const account = useAccount();
  const path = computed(() => ({ account: account.value }));
  const answered = useAnswered("/score");
  const { pending, act } = usePending({ inTurn: true });
  async function set(change: (rules: Rules) => Rules) {
    await act(async () => {
      const now = score.value; // as the change before left it
      if (!now) return;
      const body = { rules: change(now.rules as Rules) as Schemas["ScoreRules"], revision: now.revision };
      answered(await ok(api.PUT("/api/accounts/{account}/score", { params: { path: path.value }, body })));
    });
  }
  const setBeing = (n: number, one: Partial<Rules["being"][number]>) =>
    set((rules) => ({ ...rules, being: rules.being.map((each, at) => (at === n ? { ...each, ...one } : each)) }));
  const setDoing = (n: number, one: Partial<Rules["doing"][number]>) =>
    set((rules) => ({ ...rules, doing: rules.doing.map((each, at) => (at === n ? { ...each, ...one } : each)) }));
  const setMarks = (own: Schemas["Mark"][]) =>
    set((rules) => ({ ...rules, marks: [...rules.marks.filter((one) => one.score !== of.value), ...own] }));
  const dropBeing = (n: number) => set((rules) => ({ ...rules, being: rules.being.filter((_, at) => at !== n) }));
  const dropDoing = (n: number) => set((rules) => ({ ...rules, doing: rules.doing.filter((_, at) => at !== n) }));
  const addBeing = () =>
    set((rules) => ({
      ...rules,
      being: [...rules.being, { kind: "being", name: "new", points: 10, score: of.value, when: { test: "tag", tag: "", has: true } }],
    }));
  const addDoing = () =>
    set((rules) => ({
      ...rules,
      doing: [
        ...rules.doing,
        {
          kind: "doing",
          name: "new",
          points: 10,
          limit: 30,
          half_life: "30 days",
          score: of.value,
          on: { kind: "link_clicked", message: "", url: "" } as Happening,
        },
      ],
    }));
  async function addScore(name: string) {
    const first = FIRST.map(([mark, at_least]) => ({ name: mark, at_least, score: name }));
    await set((rules) => ({ ...rules, further: [...rules.further, name], marks: [...rules.marks, ...first] }));
    of.value = name;
  }
  const dropScore = (name: string) =>
    set((rules) => {
      const others = <R extends { score: string }>(all: R[]) => all.filter((one) => one.score !== name);
      const further = rules.further.filter((one) => one !== name);
      return { ...rules, further, being: others(rules.being), doing: others(rules.doing), marks: others(rules.marks) };
    });
  async function leave() {
    await act(async () => answered(await ok(api.DELETE("/api/accounts/{account}/score", { params: { path: path.value } }))));
    tell("The rules stay as they count.");
  }
  async function count(starts: number[]) {
    const body = { revision: score.value?.revision ?? 0, starts };
    const done = await act(async () =>
      answered(await ok(api.POST("/api/accounts/{account}/score/count", { params: { path: path.value }, body }))),
    );
    if (done) tell("It counts from now on.");
  }
  const stop = () => act(async () => answered(await ok(api.POST("/api/accounts/{account}/score/stop", { params: { path: path.value } }))));

  return { pending, set, setBeing, setDoing, setMarks, dropBeing, dropDoing, addBeing, addDoing, addScore, dropScore, leave, count, stop };
}
