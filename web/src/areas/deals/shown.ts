import type { Schemas } from "@/api/client";

type Deal = Schemas["DealOut"];

/** The table's rows with what is on its way (by the deal's id: to which stage, "" for none) where it goes. */
export function shown(rows: Schemas["RowOut"][], going: Map<number, string>): Schemas["RowOut"][] {
  if (!going.size) return rows;
  const at = (deal: Deal) => going.get(deal.id) ?? deal.stage;
  return rows.map((row) => {
    const all = row.cells.flatMap((cell) => cell.deals);
    return { ...row, cells: row.cells.map((cell) => ({ ...cell, deals: all.filter((one) => at(one) === cell.stage) })) };
  });
}
