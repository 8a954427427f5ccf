/** Deals moved, closed, and put back: at once on the page, and then as the server says. */
import { ref, type Ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";
import { many, several } from "@/ui/words";

type Deal = Schemas["DealOut"];
type To = { stage?: string; state?: "open" | "won" | "lost"; why?: string };

export function useMoving(table: Ref<Schemas["DealsOut"] | undefined>) {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();
  /** What is on its way, by the deal's id: the stage it goes to, "" for off the table. */
  const going = ref(new Map<number, string>());
  const whom = (deals: Deal[]) => (deals.length === 1 ? (deals[0]?.contact ?? "") : many(deals.length, "deal"));

  async function move(deals: Deal[], to: To): Promise<boolean> {
    const stage = to.stage ?? "";
    const moving = deals.filter((one) => (stage && one.stage !== stage) || (to.state ?? "open") !== "open");
    if (!moving.length || pending.value) return false;
    for (const one of moving) going.value.set(one.id, to.state && to.state !== "open" ? "" : stage);
    const done = await act(async () => {
      const body = { deals: moving.map((one) => one.id), stage, state: to.state ?? ("open" as const), why: to.why ?? "" };
      const path = { account: account.value };
      const moved = await ok(api.POST("/api/accounts/{account}/deals/move", { params: { path }, body }));
      const said = to.state === "won" ? "is won" : to.state === "lost" ? "is lost" : `is in ${stage}`;
      tell(`${whom(moving)} ${moving.length > 1 ? said.replace("is", "are") : said}.`, () => back(moved.act));
    });
    await touched("/deals");
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
  /** The table with what is on its way where it goes. */
  function shown(): Schemas["RowOut"][] {
    const rows = table.value?.rows ?? [];
    if (!going.value.size) return rows;
    return rows.map((row) => {
      const all = row.cells.flatMap((cell) => cell.deals);
      const at = (deal: Deal) => going.value.get(deal.id) ?? deal.stage;
      return { ...row, cells: row.cells.map((cell) => ({ ...cell, deals: all.filter((one) => at(one) === cell.stage) })) };
    });
  }
  return { pending, move, shown, whom };
}
