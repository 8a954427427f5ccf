/** The API, typed from its schema. Errors carry the server's sentence, to be shown as it is. */
import createClient, { type Middleware } from "openapi-fetch";
import { ref } from "vue";

import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

/** What the server answered instead, in its words; `status` 0 when it did not answer at all. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What is wrong with each field, in sentences, where the server told it so. */
    readonly faults: Record<string, string> = {},
  ) {
    super(message);
  }
}

/** Whether it is asked to sign in again, since the server knew nobody any more (frame/SessionEnded.vue). */
export const sessionEnded = ref(false);
/** Whether the server knows nobody: what asks by itself asks no more until somebody has signed in. */
export const signedOut = ref(false);

function csrfToken(): string {
  return document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? "";
}

export const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
  },
};
export const api = createClient<paths>({ baseUrl: window.location.origin });
api.use(withToken);

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of a call, or an ApiError. */
export async function ok<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new ApiError("The server cannot be reached. Nothing was changed; try again.", 0);
  }
  if (answer.response.ok) return answer.data as T;
  if (answer.response.status === 401 && !answer.response.url.endsWith("/api/session")) {
    if (!signedOut.value) sessionEnded.value = signedOut.value = true; // once; an act that is refused asks again (ui/usePending.ts)
    throw new ApiError("You are signed out. Nothing was changed; sign in, and do it again.", 401);
  }
  const { detail, faults } = (answer.error ?? {}) as { detail?: unknown; faults?: Record<string, string> };
  const words =
    typeof detail === "string"
      ? detail
      : answer.response.status >= 500
        ? "The server has a fault of its own. Nothing was lost; try again in a moment."
        : `The server answered ${answer.response.status}.`;
  throw new ApiError(words, answer.response.status, faults);
}
