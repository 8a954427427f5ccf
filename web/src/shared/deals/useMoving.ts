/** Deals moved, closed, opened again and put back. `going` says what is on its way, so that a page can show it there at once. */
import { ref } from "vue";

import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, several } from "@/ui/words";

export interface Movable {
  id: number;
  contact: string;
  stage: string;
}
/** `again`: one that is closed is opened where it was. */
export interface To {
  stage?: string;
  state?: "open" | "won" | "lost";
  why?: string;
  again?: boolean;
}
export const whom = (deals: Movable[]) => (deals.length === 1 ? (deals[0]?.contact ?? "") : many(deals.length, "deal"));

export function useMoving() {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();
  /** By the deal's id: the stage it goes to, "" for out of sight. */
  const going = ref(new Map<number, string>());

  async function move(deals: Movable[], to: To): Promise<boolean> {
    const stage = to.stage ?? "";
    const state = to.state ?? "open";
    const moving = deals.filter((one) => to.again || state !== "open" || (stage && one.stage !== stage));
    if (!moving.length || pending.value) return false;
    for (const one of moving) going.value.set(one.id, state === "open" ? stage || one.stage : "");
    const done = await act(async () => {
      const body = { deals: moving.map((one) => one.id), stage, state, why: to.why ?? "" };
      const moved = await ok(api.POST("/api/accounts/{account}/deals/move", { params: { path: { account: account.value } }, body }));
      const said = state === "open" ? (stage ? `in ${stage}` : "open again") : state;
      tell(`${whom(moving)} ${moving.length > 1 ? "are" : "is"} ${said}.`, () => back(moved.act));
    });
    await touched("/deals", "/deals/{deal_id}", "/contacts/{contact_id}/deals");
    going.value.clear();
    return done;
  }
  /** Answers what cannot be taken back. */
  async function back(act: string): Promise<string> {
    const path = { account: account.value, moved: act };
    const done = await ok(api.POST("/api/accounts/{account}/deals/acts/{moved}/take-back", { params: { path } }));
    void touched("everything");
    const stays = done.stays.length ? ` What was sent stays sent: ${several(done.stays)}.` : "";
    const left = done.left ? ` ${many(done.left, "deal has", "deals have")} gone on since, and stays.` : "";
    return `Taken back.${left}${stays}`;
  }
  return { pending, move, going };
}
