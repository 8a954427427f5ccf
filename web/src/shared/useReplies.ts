/** What the team does about what somebody wrote: that it needs no answer, or whether it means that they want no more. Each at the turn
 * at which it was seen: who acts on what has moved on meanwhile is told. */
import { api, ok } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

export interface Waiting {
  contact_id: number;
  contact: string;
  turn: number;
}
export const DECISIONS = [
  { key: "1", out: true, words: "They want out" },
  { key: "2", out: false, words: "They do not" },
] as const;

export function useReplies() {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();
  const at = (one: Waiting) => ({ params: { path: { account: account.value, contact_id: one.contact_id } } });
  const after = () => touched("/today", "/replies", "/replies/{contact_id}");
  async function decide(one: Waiting, out: boolean): Promise<boolean> {
    const body = { turn: one.turn, wants_out: out };
    const did = await act(() => ok(api.POST("/api/accounts/{account}/replies/{contact_id}/decide", { ...at(one), body })));
    if (did)
      tell(
        out
          ? `${one.contact} is opted out: nothing more goes out where they wrote.`
          : `${one.contact} does not want out: what was held goes on.`,
      );
    await after();
    return did;
  }
  async function done(one: Waiting): Promise<boolean> {
    const did = await act(async () => {
      const now = await ok(api.POST("/api/accounts/{account}/replies/{contact_id}/done", { ...at(one), body: { turn: one.turn } }));
      async function waitAgain() {
        const params = { ...at(one).params, query: { turn: now.turn } };
        await ok(api.DELETE("/api/accounts/{account}/replies/{contact_id}/done", { params }));
        await after();
      }
      tell(`${one.contact} needs no answer.`, waitAgain, now.undo_for * 1000);
    });
    await after();
    return did;
  }
  return { decide, done, after, act, pending };
}
