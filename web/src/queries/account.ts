/** Reading and writing below /api/accounts/{account}: the account comes from the address, the key of what was read from its
 * path, so that a change names what it touches by the same paths. */
import { useQuery, useQueryClient, type Query, type UseQueryOptions } from "@tanstack/vue-query";
import { computed, toValue, type MaybeRefOrGetter } from "vue";

import { api, ok } from "@/api/client";
import type { paths } from "@/api/schema.gen";
import { useAccount, useAccountDetails } from "./session";
import { LIVE } from "@/ui/useLive";

type Base = "/api/accounts/{account}";
type AccountPath = Extract<keyof paths, `${Base}/${string}`>;
/** What can be read, without the account before it. */
export type Readable = {
  [P in AccountPath]: paths[P] extends { get: { responses: { 200: unknown } } } ? (P extends `${Base}${infer Rest}` ? Rest : never) : never;
}[AccountPath];
type Get<R extends Readable> = `${Base}${R}` extends keyof paths ? (paths[`${Base}${R}`] extends { get: infer G } ? G : never) : never;
export type Answer<R extends Readable> = Get<R> extends { responses: { 200: { content: { "application/json": infer T } } } } ? T : never;
type PathOf<R extends Readable> = Get<R> extends { parameters: { path: infer P } } ? Omit<P, "account"> : object;
type QueryOf<R extends Readable> = Get<R> extends { parameters: { query?: infer Q } } ? Q : undefined;
export type Asked<R extends Readable> = (keyof PathOf<R> extends never ? { path?: undefined } : { path: PathOf<R> }) & {
  query?: QueryOf<R>;
};
type Needs<R extends Readable> = keyof PathOf<R> extends never
  ? [asked?: MaybeRefOrGetter<Asked<R>>, more?: More<Answer<R>>]
  : [asked: MaybeRefOrGetter<Asked<R>>, more?: More<Answer<R>>];
interface More<A> {
  /** Asked again as soon as something was written in the account. */
  live?: MaybeRefOrGetter<boolean>;
  /** Kept apart, under this name, from other reads of the same path: for what must not begin with what another page had read. */
  apart?: string;
  enabled?: MaybeRefOrGetter<boolean>;
  /** ms */
  staleTime?: number;
  gcTime?: number;
  refetchInterval?: number | (() => number | false) | ((query: Query<A>) => number | false);
  refetchOnWindowFocus?: boolean;
  placeholderData?: (before: A | undefined) => A | undefined;
}

export function useRead<R extends Readable>(path: R, ...[asked, more]: Needs<R>) {
  const account = useAccount();
  const given = computed(() => toValue(asked) as { path?: object; query?: object } | undefined);
  const { live, apart = "", ...options } = more ?? {};
  const get = api.GET as unknown as (path: string, init: object) => Parameters<typeof ok<Answer<R>>>[0];
  return useQuery<Answer<R>>({
    queryKey: [path, account, given, apart],
    queryFn: () =>
      ok(
        get(`/api/accounts/{account}${path}`, {
          params: { path: { account: account.value, ...given.value?.path }, query: given.value?.query },
        }),
      ),
    ...(live && { meta: computed(() => (toValue(live) ? LIVE : {})) }),
    ...options,
  } as unknown as UseQueryOptions<Answer<R>>);
}

/** Asks again for what a change has touched; for everything on the page when what it touched cannot be told beforehand. */
export function useTouched() {
  const account = useAccount();
  const cache = useQueryClient();
  return (...touches: [Readable, ...Readable[]] | ["everything"]) =>
    touches[0] === "everything"
      ? cache.invalidateQueries()
      : Promise.all(touches.map((path) => cache.invalidateQueries({ queryKey: [path, account.value] })));
}

/** Puts an answer that a change brought with it in the place of what was read before. */
export function useAnswered<R extends Readable>(path: R, ...[asked]: Needs<R>) {
  const account = useAccount();
  const cache = useQueryClient();
  return (now: Answer<R>) => cache.setQueryData([path, account.value, toValue(asked), ""], now);
}

/** What the person who is signed in may do in this account; the server decides the same again. */
export function useMay() {
  const { data } = useAccountDetails();
  return (right: string) => data.value?.rights.includes(right) ?? false;
}
