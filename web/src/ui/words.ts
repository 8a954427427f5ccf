/** Times and counts in words, as the whole application writes them: "Tue 3 Mar, 09:30". */
const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** A local wall-clock time ("2026-03-03T09:30") in words. It has no zone, and none is applied. */
export function moment(local: string): string {
  const at = new Date(`${local.slice(0, 16)}:00Z`);
  return `${DAYS[at.getUTCDay()]} ${at.getUTCDate()} ${MONTHS[at.getUTCMonth()]}, ${local.slice(11, 16)}`;
}

export function clockTime(local: string): string {
  return local.slice(11, 16);
}

const NUMBERS = new Intl.NumberFormat("en-GB");
export function many(count: number, one: string, several = `${one}s`): string {
  return `${NUMBERS.format(count)} ${count === 1 ? one : several}`;
}

/** Words written with commas between them. */
export function cut(text: string): string[] {
  return text.split(",").map((one) => one.trim()).filter(Boolean);
}
