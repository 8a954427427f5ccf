/** Whom somebody means (see the server's segments/choosing.py), written with only what is asked for. */
import type { Schemas } from "@/api/client";

export type Chosen = Schemas["Chosen"];

export function chosen(asked: Partial<Chosen>): Chosen {
  return { ids: null, q: "", tag: "", list: "", segment: "", where: null, ...asked };
}
