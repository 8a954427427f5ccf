/** In which workflows something of the account is named: a tag, a field, a list, a form. */
import { useQuery } from "@tanstack/vue-query";

import { api, ok } from "@/api/client";
import { useAccount } from "@/practice/session";

export function useUses() {
  const account = useAccount();
  const { data: uses } = useQuery({ queryKey: ["uses", account], queryFn: () => ok(api.GET("/api/accounts/{account}/uses", { params: { path: { account: account.value } } })) });
  return (kind: string, name: string) => [...new Set((uses.value ?? []).filter((one) => one.kind === kind && one.name === name).map((one) => one.workflow))];
}
