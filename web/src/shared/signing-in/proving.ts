/** What opens doors is changed by who shows once more who they are, unless they have just signed in. */
import { shallowRef } from "vue";

import { ApiError } from "@/api/client";
import type { Outcome } from "@/api/signingIn";

/** The question that is open: in which ways somebody may show it, and what goes on then. */
export const proof = shallowRef<{ ways: string[]; goOn: (shown: boolean) => void }>();

/** Does it; asks for the proof where the server wants one, and does it again. */
export async function proved<D>(call: () => Promise<Outcome<D>>): Promise<Outcome<D>> {
  const first = await call();
  if (first.status !== 401 || !first.meta.is_authenticated) return first;
  const shown = await new Promise<boolean>((goOn) => (proof.value = { ways: first.pending, goOn }));
  proof.value = undefined;
  if (!shown) throw new ApiError("Nothing was changed.", 401);
  return call();
}
