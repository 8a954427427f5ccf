/** Which lines are selected and folded away, and what is done with them: going from line to line, adding, moving, taking
 * out, copying, pasting. */
import { useLocalStorage } from "@vueuse/core";
import { computed, nextTick, ref, type Ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { keepClip, readClip } from "./clip";
import { between, laneOf, lanesOf, moveSteps, placeOf, removeSteps, runOf, stepOf, withNewIds, type Doc, type Step } from "./document";

export function useLines(
  account: Ref<string>,
  workflow: number,
  doc: Ref<Doc>,
  change: (what: (doc: Doc) => void) => void,
  wordsOf: (step: Step) => string,
) {
  const selected = ref("");
  const anchor = ref(""); // where the selection began
  const unwritten = ref(""); // words that stand in the field for a new line when it opens
  const adding = ref<{ lane: string; index: number }>();
  const folded = useLocalStorage(`bluffside-folded-${workflow}`, new Set<string>(), { shallow: true });
  /** Lines from another account that name what is not here, until it is said what stands for it. */
  const pasting = ref<{ steps: Step[]; missing: Schemas["Missing"][] }>();
  /** The selected lines: those between where the selection began and where it is. */
  const chosen = computed<Set<string>>((before) => {
    const ids = stepOf(doc.value, selected.value) ? between(doc.value, anchor.value || selected.value, selected.value) : [];
    return before && ids.join() === [...before].join() ? before : new Set(ids); // the same stays the same
  });

  function select(id: string, focus = false, extend = false): void {
    if (!extend || !anchor.value || !stepOf(doc.value, id)) anchor.value = id;
    selected.value = id;
    if (focus) void nextTick(() => document.querySelector<HTMLElement>(`#line-${CSS.escape(id)}, #lane-${CSS.escape(id)}`)?.focus());
  }

  /** Lines and the words above lanes, in the order in which they are read; what is folded away is left out. */
  function order(): string[] {
    function* within(steps: Step[]): Generator<string> {
      for (const step of steps) {
        yield step.id;
        for (const lane of lanesOf(step)) {
          yield lane.id;
          if (!folded.value.has(lane.id)) yield* within(lane.steps);
        }
      }
    }
    return [...within(doc.value.steps)];
  }
  function go(by: 1 | -1, extend: boolean): void {
    if (extend) {
      const place = placeOf(doc.value, selected.value);
      const beside = place?.run[place.index + by];
      if (beside) select(beside.id, true, true);
      return;
    }
    const ids = order();
    const at = ids.indexOf(selected.value);
    const next = ids[at < 0 ? (by > 0 ? 0 : ids.length - 1) : at + by];
    if (next) select(next, true);
  }

  function fold(lane: string): void {
    const next = new Set(folded.value);
    if (!next.delete(lane)) next.add(lane);
    folded.value = next;
  }
  /** The selected lane, or all lanes of the selected line. */
  function foldHere(): void {
    const step = stepOf(doc.value, selected.value);
    if (laneOf(doc.value, selected.value)) return fold(selected.value);
    const lanes = step ? lanesOf(step) : [];
    const open = lanes.some((lane) => !folded.value.has(lane.id));
    for (const lane of lanes) if (folded.value.has(lane.id) !== open) fold(lane.id);
  }

  /** Opens the field for a new line below the selected one, or at the beginning of the selected lane. */
  function addBelow(words = ""): void {
    unwritten.value = words;
    const id = selected.value;
    const place = placeOf(doc.value, id);
    if (laneOf(doc.value, id)) {
      if (folded.value.has(id)) fold(id);
      adding.value = { lane: id, index: 0 };
    } else if (place) adding.value = { lane: place.lane?.id ?? "", index: place.index + 1 };
    else adding.value = { lane: "", index: doc.value.steps.length };
  }
  function insert(steps: Step[]): void {
    const where = adding.value;
    if (!where) return;
    change((draft) => runOf(draft, where.lane).splice(where.index, 0, ...steps));
    adding.value = undefined;
    select(steps.at(-1)?.id ?? "", true);
  }
  /** Takes out the selected lane, or the selected lines; what is beside is selected then. */
  function remove(): void {
    const lane = laneOf(doc.value, selected.value);
    if (lane) {
      const lanes = lanesOf(lane.step);
      const at = lanes.findIndex((one) => one.id === lane.lane.id);
      change((draft) => {
        const step = stepOf(draft, lane.step.id);
        if (step && "lanes" in step)
          step.lanes.splice(
            step.lanes.findIndex((one) => one.id === lane.lane.id),
            1,
          );
      });
      // The lane beside it, never the line above: pressed once more, the key would take that out with all that is in it.
      return select((lanes[at + 1] ?? lanes[at - 1])?.id ?? "", true);
    }
    const gone = [...chosen.value];
    const place = placeOf(doc.value, gone[0] ?? "");
    if (!place) return;
    const left = place.run[place.index + gone.length] ?? place.run[place.index - 1] ?? place.lane;
    change((draft) => removeSteps(draft, gone));
    select(left?.id ?? "", true);
  }
  function move(by: 1 | -1): void {
    const ids = [...chosen.value];
    change((draft) => moveSteps(draft, ids, by));
    void nextTick(() => document.getElementById(`line-${selected.value}`)?.focus());
  }

  /** The selected lane one place to the left or right. */
  function moveLane(by: 1 | -1): void {
    const { step, lane } = laneOf(doc.value, selected.value) ?? {};
    if (!step || !lane) return;
    change((draft) => {
      const lanes = lanesOf(stepOf(draft, step.id) as Step);
      const at = lanes.findIndex((one) => one.id === lane.id);
      if (lanes[at + by]) lanes.splice(at + by, 0, ...lanes.splice(at, 1));
    });
    select(lane.id, true);
  }

  function copy(cut: boolean): void {
    const steps = [...chosen.value].flatMap((id) => stepOf(doc.value, id) ?? []);
    if (!steps.length) return;
    keepClip({ account: account.value, steps }, steps.map(wordsOf).join("\n"));
    if (cut) remove();
  }
  /** Pastes what was copied; lines of another account that name what is not here wait in `pasting`. */
  async function paste(): Promise<void> {
    const clip = readClip();
    if (!clip) return;
    const found = await ok(
      api.POST("/api/accounts/{account}/lines", { params: { path: { account: account.value } }, body: { steps: clip.steps, names: [] } }),
    );
    if (clip.account !== account.value && found.missing.length) pasting.value = found;
    else put(found.steps);
  }
  /** Puts lines below the selected ones, and selects them. */
  function put(steps: Step[]): void {
    pasting.value = undefined;
    const fresh = withNewIds(steps);
    const place = placeOf(doc.value, [...chosen.value].at(-1) ?? "");
    const lane = laneOf(doc.value, selected.value)?.lane.id ?? place?.lane?.id ?? "";
    const at = place ? place.index + 1 : lane ? 0 : doc.value.steps.length;
    change((draft) => runOf(draft, lane).splice(at, 0, ...fresh));
    anchor.value = fresh[0]?.id ?? "";
    select(fresh.at(-1)?.id ?? "", true, true);
  }

  return {
    selected,
    chosen,
    unwritten,
    adding,
    folded,
    pasting,
    select,
    order,
    go,
    fold,
    foldHere,
    addBelow,
    insert,
    remove,
    move,
    moveLane,
    copy,
    paste,
    put,
  };
}
