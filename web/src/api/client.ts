/** The API, typed from its schema. Errors carry the server's sentence, to be shown as it is. */
import createClient from "openapi-fetch";

import type { components, paths } from "./schema.gen";

export type Schemas = components["schemas"];

/** What the server answered instead, in its words; `status` 0 when it did not answer at all. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

function csrfToken(): string {
  return document.cookie.match(/csrftoken=([^;]+)/)?.[1] ?? "";
}

export const api = createClient<paths>({ baseUrl: window.location.origin });
api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
  },
});

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
  const detail = (answer.error as { detail?: unknown } | undefined)?.detail;
  const words = typeof detail === "string" ? detail : `The server answered ${answer.response.status}.`;
  throw new ApiError(words, answer.response.status);
}
