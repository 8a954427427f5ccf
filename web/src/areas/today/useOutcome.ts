/** How a call or a task went is recorded, and can be taken back for as long as nobody has heard of it. */
import { api, ok, type Schemas } from "@/api/client";
import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

export type Outcome = Schemas["Outcome"];
export const OUTCOMES: { key: string; outcome: Outcome; words: string }[] = [
  { key: "1", outcome: "reached", words: "Reached" },
  { key: "2", outcome: "no_answer", words: "No answer" },
  { key: "3", outcome: "left_message", words: "Left a message" },
  { key: "4", outcome: "dropped", words: "Not needed" },
  { key: "5", outcome: "ring_back", words: "Ring back on …" },
];
const wordsOf = (outcome: Outcome) => (OUTCOMES.find((one) => one.outcome === outcome)?.words ?? "Done").replace(" on …", "").toLowerCase();

export function useOutcome() {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();

  /** `at`: when to ring back, a local time of the account. Answers whether it is recorded. */
  async function record(task: Schemas["TaskRow"], outcome: Outcome, note = "", at: string | null = null): Promise<boolean> {
    const path = { account: account.value, task_id: task.id };
    async function takeBack() {
      await ok(api.DELETE("/api/accounts/{account}/tasks/{task_id}/outcome", { params: { path } }));
      await touched("/today");
    }
    return act(async () => {
      const done = await ok(api.POST("/api/accounts/{account}/tasks/{task_id}/outcome", { params: { path }, body: { outcome, note, at } }));
      const back = done.comes_back ? `, comes back ${done.comes_back}` : "";
      tell(`${task.contact}: ${wordsOf(outcome)}${back}.`, takeBack, done.undo_for * 1000);
      await touched("/today");
    });
  }
  return { pending, record };
}
