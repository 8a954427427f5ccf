/** What happens next about a deal, and when, in words. */
import type { Schemas } from "@/api/client";
import { clockTime, dayOf, many } from "@/ui/words";

type Next = Schemas["NextOut"];
type Row = Schemas["RowOut"];

/** Who acts, or what goes by itself. */
export function whatNext(next: Next): string {
  if (next.sort === "nothing") return "nothing";
  if (next.sort === "waits") return `waits for an answer in “${next.words}”`;
  if (next.sort === "goes on") return `“${next.words}”`;
  return [next.who, next.words].filter(Boolean).join(" ");
}

/** When, as its row of the table leaves it to be said. */
export function whenNext(next: Next, row: Row["row"], now: string): string {
  if (next.late_days) return `${many(next.late_days, "day")} late`;
  if (!next.at) return next.sort === "nothing" ? lastWord(next, now) : "";
  if (row === "today" || row === "tomorrow") return clockTime(next.at);
  return row === "week" ? `${dayOf(next.at, now).split(" ")[0]} ${clockTime(next.at)}` : dayOf(next.at, now);
}

function lastWord(next: Next, now: string): string {
  if (!next.last_at) return "";
  return `${next.last === "we" ? "written to" : "they wrote"} ${dayOf(next.last_at, now)}`;
}

export function rowWords(row: Row, now: string): string {
  if (row.row === "nothing") return "Nothing next";
  if (row.row === "late") return "Late";
  if (row.row === "today") return "Today";
  if (row.row === "later") return `From ${dayOf(row.first ?? "", now)}`;
  return row.row === "week" ? `To ${dayOf(row.last ?? "", now)}` : dayOf(row.first ?? "", now);
}

/** How long it is here; and by how much too long. */
export function howLong(deal: Pick<Schemas["DealOut"], "days" | "over">): string {
  const here = deal.days ? many(deal.days, "day") : "since today";
  return deal.over ? `${here}, ${deal.over} over` : here;
}
