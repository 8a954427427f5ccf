/** Signing in, typed from the schema of its own routes. What they answer with 401 is no fault: it says what is still to be
 * shown, so it is an outcome like any other. */
import createClient from "openapi-fetch";

import { ApiError, withToken } from "./client";
import type { paths } from "./signing-in.gen";

export const way = createClient<paths>({ baseUrl: window.location.origin });
way.use(withToken);

export interface Outcome<D = unknown> {
  status: number;
  data: D;
  /** What is to be shown next: "mfa_authenticate", "reauthenticate", … */
  pending: string[];
  meta: { is_authenticated?: boolean; secret?: string; picture?: string };
}
interface Body {
  data?: { flows?: { id: string; is_pending?: boolean }[] };
  meta?: Outcome["meta"];
  errors?: { message: string; param?: string }[];
}
interface Answered {
  data?: unknown;
  error?: unknown;
  response: Response;
}

/** What came of it, or an ApiError in the words of the server. */
export async function came<D = unknown>(call: Promise<Answered>): Promise<Outcome<D>> {
  let answer: Answered;
  try {
    answer = await call;
  } catch {
    throw new ApiError("The server cannot be reached. Nothing was changed; try again.", 0);
  }
  const status = answer.response.status;
  const body = (answer.data ?? answer.error ?? {}) as Body;
  if (status >= 400 && status !== 401 && status !== 404) {
    const said = body.errors ?? [];
    const faults = Object.fromEntries(said.filter((one) => one.param).map((one) => [one.param ?? "", one.message]));
    const words = said.map((one) => one.message).join(" ");
    throw new ApiError(words || OTHERWISE[status] || `The server answered ${status}.`, status, faults);
  }
  const flows = body.data?.flows ?? [];
  const pending = flows.filter((one) => one.is_pending || one.id.includes("reauthenticate")).map((one) => one.id);
  return { status, data: body.data as D, pending, meta: body.meta ?? {} };
}
const OTHERWISE: Record<number, string> = {
  409: "That does not fit how things are now. Open the page anew, and try again.",
  429: "Too many tries. Wait a while, then try again.",
};

/** What stands behind the # of a link that was mailed: no server and no log has it. */
export const keyOfLink = () => decodeURIComponent(window.location.hash.slice(1));
