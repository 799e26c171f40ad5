import { peopleOf } from "../../lib/groups";
import type { Answer } from "../../lib/api/ask";
import type { Schemas } from "../../lib/api/client";
import { number, percent, rate } from "../../lib/format";
import { quantitySaid } from "../../lib/names";

export type Picture = Schemas["TrendsPicture"];
export type Line = Picture["rows"][number];
const INKS = 6;

/** A value of the picture, with its unit. */
export function said({ column, quantity, unit }: Picture, value: number): string {
  if (column === "share") return percent(value);
  if (column !== "mean") return number(value);
  return unit || quantity ? quantitySaid(value, quantity, unit) : rate(value);
}

/** The ink of a line: that of its audience, or of its place. Beyond the inks there are, lines are dashed. */
export function ink(line: Line, index: number, position: (id: number) => number) {
  const place = line.group.id === null ? index : position(line.group.id);
  return { colour: `var(--comparison-${Math.max(0, place) % INKS})`, dashed: index >= INKS };
}

/**
 * The people who did what a line counts, in a period or over the whole range: a link by the condition that the answer's
 * tables carry. Null where no condition says who they are.
 */
export function peopleIn({ tables }: Answer<"trends">, line: number, period: number | null): string | null {
  const key = period === null ? "lines" : "periods";
  const row = tables.find((table) => table.key === key)?.rows[period ?? line];
  const found = row?.cells[period === null ? "total" : `line_${line}`];
  return found ? peopleOf([found]) : null;
}
