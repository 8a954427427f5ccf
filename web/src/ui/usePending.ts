/** One act at a time. Why it was refused is said in the dialog it was done in; where none is open, like everything else that
 * is said of acts. `here`: the page has a place of its own for it, which shows `fault`. `fields`: those beside which the page
 * shows what is wrong with them (`faults`); the whole is said only where something else is wrong, too. `inTurn`: what is done while an
 * act is on its way comes after it, on pages whose parts are changed in place; else it is passed over, as a second press of a button is. */
import { nextTick, ref } from "vue";

import { ApiError, sessionEnded } from "@/api/client";
import { asks } from "./asks";
import { tellFault } from "./told";

export function usePending({ here = false, inTurn = false, fields = [] as readonly string[] } = {}) {
  let last: Promise<unknown> = Promise.resolve();
  const pending = ref(false);
  const fault = ref("");
  const faults = ref<Record<string, string>>({});
  function refuse(error: unknown) {
    if (error instanceof ApiError && error.status === 401) sessionEnded.value = true;
    const wrong = error instanceof ApiError ? Object.keys(error.faults) : [];
    if (wrong.length && error instanceof ApiError) {
      faults.value = error.faults;
      if (wrong.every((one) => fields.includes(one)))
        return void nextTick(() => document.querySelector<HTMLElement>("[aria-invalid='true']")?.focus());
    }
    const ask = asks.at(-1);
    if (here) fault.value = (error as Error).message;
    else if (ask) ask.value = (error as Error).message;
    else tellFault(error);
  }
  function act(what: () => Promise<unknown>): Promise<boolean> {
    if (pending.value && !inTurn) return Promise.resolve(false);
    const mine = inTurn ? last.then(() => once(what)) : once(what);
    last = mine;
    return mine;
  }
  async function once(what: () => Promise<unknown>): Promise<boolean> {
    pending.value = true;
    fault.value = "";
    faults.value = {};
    for (const ask of asks) ask.value = "";
    try {
      await what();
      return true;
    } catch (error) {
      refuse(error);
      return false;
    } finally {
      pending.value = false;
    }
  }
  return { pending, fault, faults, act };
}
