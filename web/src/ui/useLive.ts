/** Keeps what is shown up to date: asks each second whether anything was written, and only then asks again for what is
 * on the page. Queries that follow what happens say `meta: LIVE`. */
import { useQueryClient } from "@tanstack/vue-query";
import { onUnmounted, type Ref } from "vue";

import { api, ok } from "@/api/client";

export const LIVE = { live: true };
const PAUSE = 1_000; // ms

export function useLive(account: Ref<string>): void {
  const cache = useQueryClient();
  let last = 0;
  let asking = false;
  async function look() {
    if (asking || document.hidden || !account.value) return;
    asking = true;
    const pulse = await ok(api.GET("/api/accounts/{account}/pulse", { params: { path: { account: account.value } } })).catch(() => undefined);
    asking = false;
    if (!pulse || pulse.last === last) return;
    last = pulse.last;
    cache.invalidateQueries({ predicate: (query) => query.meta?.live === true });
  }
  const timer = window.setInterval(look, PAUSE);
  onUnmounted(() => window.clearInterval(timer));
}
