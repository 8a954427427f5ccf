/** What the three sections of Fields, tags and lists do alike: keep what was typed, and take away after asking. */
import { computed } from "vue";

import { useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { useUses } from "@/shared/useUses";
import { sure } from "@/ui/sure";
import { tell } from "@/ui/told";
import { usePending } from "@/ui/usePending";

export function useKept() {
  const account = useAccount();
  const touched = useTouched();
  const { pending, act } = usePending();
  const { places: usesOf, uses } = useUses();
  async function done(words: string): Promise<void> {
    tell(words);
    await touched("/tags", "/lists", "/fields", "/names");
  }
  return {
    path: computed(() => ({ account: account.value })),
    pending,
    usesOf,
    uses,
    /** Answers whether it is done, and says so. */
    async keep(words: string, what: () => Promise<unknown>): Promise<boolean> {
      const kept = await act(what);
      if (kept) void done(words);
      return kept;
    },
    /** `loss`: what would be gone, as a sentence. */
    drop(loss: string, words: string, what: () => Promise<unknown>): void {
      sure({
        title: "Take it away?",
        act: "Take it away",
        words: `${loss} Workflows that use it say so in their checks.`,
        yes: async () => {
          await what();
          void done(words);
        },
      });
    },
  };
}
