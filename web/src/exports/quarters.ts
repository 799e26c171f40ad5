import { addDays } from "../lib/format";

export type Span = { first: string; last: string };

/** The first day of the quarter after the one a day is in. */
function nextQuarter(day: string): string {
  const [year, month] = day.split("-").map(Number) as [number, number];
  const next = Math.ceil(month / 3) * 3 + 1;
  return next > 12 ? `${year + 1}-01-01` : `${year}-${String(next).padStart(2, "0")}-01`;
}

/** The quarter that begins on a day, or what is left of one from that day on. */
function quarterFrom(first: string): Span {
  return { first, last: addDays(nextQuarter(first), -1) };
}

/** A holdout shorter than this shows nothing; as the server has it. */
const LEAST = 7;

/**
 * When a holdout over all marketing can be: what is left of this quarter from tomorrow on, and the two quarters after
 * it, but for those that others are in.
 */
export function spans(today: string, taken: Span[]): Span[] {
  const next = quarterFrom(nextQuarter(today));
  const rest = { first: addDays(today, 1), last: addDays(next.first, -1) };
  return [rest, next, quarterFrom(nextQuarter(next.first))].filter(
    ({ first, last }) =>
      addDays(first, LEAST - 1) <= last && !taken.some((other) => other.first <= last && first <= other.last),
  );
}
