/** The account's care, changed part by part: what is changed is kept at once, and can be taken back. */
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAnswered, useMay, useRead, useTouched } from "@/queries/account";
import { useAccount } from "@/queries/session";
import { usePending } from "@/ui/usePending";
import { useKeeping } from "@/shared/settings/useKeeping";

export type Care = Schemas["Care"];
const PARTS = [
  "quiet",
  "opening",
  "holidays",
  "limits",
  "pause",
  "pace",
  "longest_days",
  "most_touches",
  "most_text_parts",
  "first_text_says_who",
  "refuses",
  "policy",
  "own_page_in_texts",
  "own_page_words",
  "words_out",
  "words_help",
  "help_says",
  "confirm_forms",
  "consent_months",
  "link_source",
  "link_medium",
  "link_campaign",
] as const;

export function useCare() {
  const account = useAccount();
  const touched = useTouched();
  const may = useMay();
  const { data: care, ...careRead } = useRead("/care");
  const { pending, faults, act } = usePending({ fields: PARTS });
  const put = (parts: Partial<Care>) =>
    ok(api.PATCH("/api/accounts/{account}/care", { params: { path: { account: account.value } }, body: { parts } }));
  const after = () => touched("/care", "/set-up/hours", "/set-up/rules", "/set-up/changes", "/consent");
  const answered = useAnswered("/care");
  const change = useKeeping();
  function keep(parts: Partial<Care>) {
    const now = care.value;
    if (!now) return;
    const before = Object.fromEntries(Object.keys(parts).map((name) => [name, now[name as keyof Care] ?? null])) as Partial<Care>;
    change({
      show: () => answered({ ...now, ...parts } as Care),
      keep: () => act(() => put(parts)),
      undo: () => put(before),
      after,
    });
  }
  return { care, careRead, keep, pending, faults, may: computed(() => may("set-up")) };
}
