/** The kinds an account's own fields can be of, and forms' questions with them: as the server declares them. */
import { useQuery } from "@tanstack/vue-query";
import { computed } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { useAccount } from "./session";

export type FieldKind = Schemas["KindOut"];

export function useFieldKinds() {
  const account = useAccount();
  const { data } = useQuery({
    queryKey: ["field-kinds"],
    queryFn: () => ok(api.GET("/api/accounts/{account}/fields/kinds", { params: { path: { account: account.value } } })),
    staleTime: Infinity, // a new one comes with a new version
  });
  const kinds = computed(() => data.value ?? []);
  const byName = computed(() => new Map(kinds.value.map((one) => [one.name as string, one])));
  return { kinds, kindOf: (name = "text"): FieldKind | undefined => byName.value.get(name) };
}
