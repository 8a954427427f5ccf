/** A line that says a message of the library, in the place of what it said: it keeps who it is from, and whether it is held. */
import type { Schemas } from "@/api/client";
import { plain } from "@/sentences/written";
import { placeOf, type Doc, type Step } from "../script/document";

export function say(doc: Doc, id: string, message: Schemas["SayableOut"]): void {
  const place = placeOf(doc, id);
  const now = place?.run[place.index] as (Step & { sender?: string; held?: boolean }) | undefined;
  if (!place || !now) return;
  const own = { id, library: message.name, sender: now.sender ?? "", held: now.held ?? false };
  place.run[place.index] = { ...plain(message.line), ...own } as Step;
}
