/** Where something of the account is named: a tag, a field, a list, a form. */
import type { RouteLocationRaw } from "vue-router";

import type { Schemas } from "@/api/client";
import { useRead } from "@/queries/account";

export type Use = Schemas["Use"];
export const PLACES: Record<Use["place"], string> = {
  workflow: "",
  segment: "segment ",
  form: "form ",
  rule: "incoming words ",
  source: "leads from ",
  score: "score ",
};

/** Where a use leads; nowhere for what has no page. */
export function leadsTo({ place, id, step }: Use): RouteLocationRaw | undefined {
  switch (place) {
    case "workflow":
      return { name: "workflow", params: { workflow: id }, query: step ? { line: step } : {} };
    case "form":
      return { name: "form", params: { form: id } };
    case "source":
      return { name: "lead-source", params: { source: id } };
    case "segment":
      return { name: "segments" };
    case "rule":
      return { name: "words" };
  }
  return undefined;
}

export function useUses() {
  const { data, ...reading } = useRead("/uses");
  const uses = (kind: string, name: string) => (data.value ?? []).filter((one) => one.kind === kind && one.name === name);
  /** Each place once, as it is called. */
  const places = (kind: string, name: string) => [...new Set(uses(kind, name).map((one) => PLACES[one.place] + one.title))];
  return { data, reading, uses, places };
}
