/** The account's names, which sentences are written with. One that is used for the first time is offered from then on: they are
 * asked for again when a draft is kept, and not too often. */
import { until } from "@vueuse/core";
import { computed, watch, type Ref } from "vue";

import { useRead, useTouched } from "@/queries/account";

const PAUSE = 15_000; // ms

export function useNames(draftState: Ref<string>) {
  const { data, isPending } = useRead("/names");
  const touched = useTouched();
  let asked = Date.now();
  watch(draftState, (state) => {
    if (state !== "kept" || Date.now() - asked < PAUSE) return;
    asked = Date.now();
    void touched("/names");
  });
  return {
    names: computed(() => data.value?.names ?? {}),
    ownFields: computed(() => data.value?.own_fields ?? {}),
    namesRead: () =>
      until(isPending)
        .toBe(false, { timeout: 5000 })
        .then(() => undefined),
  };
}
