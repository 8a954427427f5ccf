/** Who is signed in, and the account that the address names. */
import { useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed } from "vue";
import { useRoute } from "vue-router";

import { api, ok, sessionEnded, signedOut } from "@/api/client";

export function useSession() {
  const cache = useQueryClient();
  const query = useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const now = await ok(api.GET("/api/session"));
      const before = cache.getQueryData<typeof now>(["session"]);
      if (!before?.name || now.name) return now;
      if (!signedOut.value) sessionEnded.value = signedOut.value = true; // the page stays, with what is typed on it, and asks to sign in again
      return before;
    },
    refetchInterval: (query) => (query.state.error ? 5_000 : false),
  });
  async function signIn(email: string, password: string) {
    signedOut.value = false;
    cache.setQueryData(["session"], await ok(api.POST("/api/session", { body: { email, password } })));
  }
  async function signOut() {
    const out = await ok(api.DELETE("/api/session"));
    cache.clear();
    cache.setQueryData(["session"], out);
  }
  return { session: query.data, isPending: query.isPending, isError: query.isError, signIn, signOut };
}

/** The slug of the account in the address. */
export function useAccount() {
  const route = useRoute();
  return computed(() => String(route.params.account ?? ""));
}

/** The account's details, with its clock and what the person may do there. */
export function useAccountDetails() {
  const account = useAccount();
  return useQuery({
    queryKey: ["account", account],
    queryFn: () => ok(api.GET("/api/accounts/{account}/", { params: { path: { account: account.value } } })),
    enabled: () => account.value !== "",
    refetchInterval: 30_000,
  });
}
