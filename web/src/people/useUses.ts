/** Where something of the account is named: a tag, a field, a list, a form. */

import { useRead } from "@/queries/account";
import { type Schemas } from "@/api/client";

export type Use = Schemas["Use"];
export const PLACES: Record<Use["place"], string> = { workflow: "", segment: "segment ", form: "form ", rule: "incoming words ", source: "leads from ", score: "score " };

/** Where a use leads; empty for what has no page. */
export function leadsTo(account: string, use: Use) {
  if (use.place === "workflow") return `/${account}/workflows/${use.id}${use.step ? `?line=${use.step}` : ""}`;
  if (use.place === "score") return "";
  return `/${account}/people/${{ segment: "segments", rule: "words", form: `forms/${use.id}`, source: `leads/${use.id}` }[use.place]}`;
}

export function useUses() {
  const { data, ...reading } = useRead("/uses");
  const uses = (kind: string, name: string) => (data.value ?? []).filter((one) => one.kind === kind && one.name === name);
  /** Each place once, as it is called. */
  const places = (kind: string, name: string) => [...new Set(uses(kind, name).map((one) => PLACES[one.place] + one.title))];
  return { data, reading, uses, places };
}
