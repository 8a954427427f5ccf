/** What the checks offer: carried out where it stands, by key for the line at hand, and going from one check to the next. */
import type { Ref } from "vue";

import type { Schemas } from "@/api/client";
import { plain } from "@/sentences/written";
import { laneOf, mend } from "./document";
import type { Script } from "./script";
import type { useLines } from "./useLines";

export function useMending(
  doc: Script["doc"],
  checks: Readonly<Ref<Schemas["Check"][]>>,
  lines: ReturnType<typeof useLines>,
  change: Script["change"],
) {
  function carryOut(check: Schemas["Check"]) {
    const offered = check.mend && plain(check.mend);
    if (offered) change((draftDoc) => mend(draftDoc, check.step, offered));
  }
  /** Mends by the first check of the line that offers it; with nothing selected, of the script. */
  function mendFirst() {
    const step = laneOf(doc.value, lines.selected.value)?.step.id ?? lines.selected.value;
    const check = (step && checks.value.find((one) => one.step === step && one.mend)) || checks.value.find((one) => one.mend);
    if (check) carryOut(check);
  }
  function nextCheck() {
    const ids = lines.order();
    const with_ = new Set(checks.value.map((check) => check.step));
    const at = ids.indexOf(lines.selected.value);
    const next = [...ids.slice(at + 1), ...ids.slice(0, at + 1)].find((id) => with_.has(id));
    if (next) lines.select(next, true);
  }
  return { carryOut, mendFirst, nextCheck };
}
