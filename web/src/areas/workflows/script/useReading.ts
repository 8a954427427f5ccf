/** What the server reads from the draft, a moment after each change: sentences, days, checks, by line. */
import { useQuery } from "@tanstack/vue-query";
import { computed, shallowReactive, shallowRef, watch, type Ref } from "vue";

import { api, ok, type Schemas } from "@/api/client";
import { same } from "@/sentences/written";
import { useSettled } from "@/ui/useSettled";
import { numberOf, type Doc } from "./document";

const REST = 180; // ms

/** `start`: the local time at which somebody is taken to join. */
export function useReading(account: Ref<string>, workflow: number, doc: Ref<Doc>, start: Ref<string>) {
  const settled = useSettled(doc, REST);
  /** Documents are told apart in keys of queries by a number: making a key of 200 lines would take longer than drawing them. */
  const nth = computed(() => numberOf(settled.value));
  const { data } = useQuery({
    queryKey: ["reading", account, workflow, nth, start],
    queryFn: () =>
      ok(
        api.POST("/api/accounts/{account}/read", {
          params: { path: { account: account.value } },
          body: { document: settled.value, start: start.value || null, workflow_id: workflow },
        }),
      ),
    placeholderData: (before) => before,
    select: (read) => read, // what is as in the reading before stays the same object
    shallow: true,
    gcTime: 10_000,
  });
  const lines = computed(() => data.value?.reading.lines ?? []);
  const checks = computed<Schemas["Check"][]>(() => data.value?.reading.checks ?? []);
  return {
    settled,
    reading: data,
    checks,
    words: computed(() => new Map(lines.value.map((line) => [line.step, line.sentence.replace(/\.$/, "")]))),
    readingsByLine: byLine(() => new Map(lines.value.map((line) => [line.step, line]))),
    checksByLine: byLine(() => grouped(checks.value)),
  };
}

/** Rows by line, kept in one reactive map in which only what changed is set: so only those lines are drawn anew. */
function byLine<T>(rows: () => Map<string, T>): Ref<Map<string, T>> {
  const kept = shallowReactive(new Map<string, T>());
  watch(
    rows,
    (next) => {
      for (const id of [...kept.keys()]) if (!next.has(id)) kept.delete(id);
      for (const [id, row] of next) if (!kept.has(id) || !same(kept.get(id), row)) kept.set(id, row);
    },
    { immediate: true },
  );
  return shallowRef(kept);
}

export function grouped<T extends { step: string }>(rows: T[] | undefined): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const row of rows ?? []) found.set(row.step, [...(found.get(row.step) ?? []), row]);
  return found;
}
