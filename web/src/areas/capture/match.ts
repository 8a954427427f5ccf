/** How the words of a rule are looked for in what comes in. */
import type { Schemas } from "@/api/client";

export const MATCH: [Schemas["RuleIn"]["match"], string][] = [
  ["is", "is exactly"],
  ["begins", "begins with"],
  ["contains", "contains"],
];
