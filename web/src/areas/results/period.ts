/** Which days figures are of: kept in the address, so that a link shows what was seen; the last twelve weeks if nothing is said. */
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { dayOf } from "@/ui/words";

const DAY = 86_400_000;
export const WEEKS = [2, 4, 12, 26, 52] as const;
const iso = (at: number) => new Date(at).toISOString().slice(0, 10);

export function usePeriod() {
  const route = useRoute();
  const router = useRouter();
  const asked = computed(() => {
    const { since, until } = route.query;
    return { ...(since ? { since: String(since) } : {}), ...(until ? { until: String(until) } : {}) };
  });
  /** The last so many weeks up to a day. */
  const choose = (weeks: number, until: string) =>
    router.replace({ query: { ...route.query, since: iso(Date.parse(until) - (7 * weeks - 1) * DAY), until } });
  const set = (since: string, until: string) => router.replace({ query: { ...route.query, since, until } });
  return { asked, choose, set };
}

export const weeksOf = (since: string, until: string) => (Date.parse(until) - Date.parse(since) + DAY) / (7 * DAY);
export const daysWords = (since: string, until: string) => `${dayOf(since, until)} to ${dayOf(until)}`;
