/** Keeps what is shown up to date: asks each second whether anything was written, and only then asks again for what is
 * on the page. Queries that follow what happens say `meta: LIVE`. Answers what keeps things from going on, in words, once
 * it has lasted for some seconds; empty while all is well. */
import { useQueryClient } from "@tanstack/vue-query";
import { computed, onUnmounted, ref, type Ref } from "vue";

import { api, ok, signedOut, type ApiError } from "@/api/client";

export const LIVE = { live: true };
const PAUSE = 1_000; // ms
const LASTED = 5; // times asked, so that a restart is not an alarm

export function useLive(account: Ref<string>): Ref<string> {
  const cache = useQueryClient();
  let last = 0;
  let asking = false;
  const silent = ref(0);
  const idle = ref(0);
  async function look() {
    if (asking || document.hidden || !account.value || signedOut.value) return;
    asking = true;
    const pulse = await ok(api.GET("/api/accounts/{account}/pulse", { params: { path: { account: account.value } } })).catch(
      (error: ApiError) => error.status,
    );
    asking = false;
    if (typeof pulse === "number") {
      silent.value = pulse === 0 || pulse >= 500 ? silent.value + 1 : 0;
      return;
    }
    silent.value = 0;
    idle.value = pulse.working ? 0 : idle.value + 1;
    if (pulse.last === last) return;
    last = pulse.last;
    void cache.invalidateQueries({ predicate: (query) => query.meta?.live === true });
  }
  const timer = window.setInterval(look, PAUSE); // not VueUse's: the first page carries this
  onUnmounted(() => window.clearInterval(timer));
  return computed(() => {
    if (silent.value >= LASTED) return "Bluffside does not answer. What you see may be old; it goes on by itself once there is an answer.";
    if (idle.value >= LASTED)
      return "Nothing goes out or goes on by itself at the moment: no worker runs. What is due waits, and nothing is lost.";
    return "";
  });
}
