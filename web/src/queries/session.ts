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
  /** Reads again who is signed in: somebody has just signed in. */
  async function signedIn() {
    signedOut.value = false;
    cache.setQueryData(["session"], await ok(api.GET("/api/session")));
  }
  async function signOut() {
    await ok(api.DELETE("/api/session"));
    window.location.assign("/"); // loaded anew, so that nothing of theirs stays in the page
  }
  return { session: query.data, isPending: query.isPending, isError: query.isError, signedIn, signOut };
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
