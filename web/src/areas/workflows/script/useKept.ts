/** How a draft stands, in words. `today`: what is left out of the moment it was kept at, when that was today. */
import { computed, type ComputedRef } from "vue";

import type { useDraft } from "./useDraft";

export function useKept(draft: ReturnType<typeof useDraft>, today: () => string = () => ""): ComputedRef<string> {
  return computed(
    () =>
      ({
        kept: `kept ${draft.keptAt.value.replace(today(), "")}`,
        changed: "keeping…",
        keeping: "keeping…",
        failed: `not kept: ${draft.fault.value}`,
        conflict: "not kept: you and somebody else changed the same",
      })[draft.state.value],
  );
}
