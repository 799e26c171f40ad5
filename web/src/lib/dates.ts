import { addDays } from "./format";

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const ISO = /^(\d{4})-(\d{1,2})-(\d{1,2})$/;
const NAMED = /^(\d{1,2})\.?\s+([a-z]{3,9})\.?,?\s+(\d{4})$/;
const DAY_FIRST = /^(\d{1,2})[./](\d{1,2})[./](\d{4})$/;

/** Days that are asked for often, by name, as seen from a day: ISO dates. */
export function shortcuts(today: string): [string, string][] {
  const weekday = new Date(`${today}T00:00:00Z`).getUTCDay();
  return [
    ["yesterday", addDays(today, -1)],
    ["last Sunday", addDays(today, -(weekday || 7))],
    ["end of last month", addDays(`${today.slice(0, 7)}-01`, -1)],
  ];
}

/**
 * A date as people type it: "31 Oct 2026", "2026-10-31", "31/10/2026", "31.10.2026", or one of the shortcuts.
 * The day comes first where only numbers are given. Null where it is no date.
 */
export function dateOf(text: string, today: string): string | null {
  const said = text.trim().toLowerCase().replaceAll(/\s+/g, " ");
  const named = [["today", today] as const, ...shortcuts(today)].find(
    ([name]) => name.toLowerCase() === said,
  );
  if (named) return named[1];
  let match: RegExpMatchArray | null;
  if ((match = said.match(ISO))) return existing(match[1]!, match[2]!, match[3]!);
  if ((match = said.match(DAY_FIRST))) return existing(match[3]!, match[2]!, match[1]!);
  if ((match = said.match(NAMED))) {
    const month = MONTHS.indexOf(match[2]!.slice(0, 3));
    return month < 0 ? null : existing(match[3]!, String(month + 1), match[1]!);
  }
  return null;
}

/** The ISO date, where the calendar has it. */
function existing(year: string, month: string, day: string): string | null {
  const iso = `${year}-${month.padStart(2, "0")}-${day.padStart(2, "0")}`;
  const date = new Date(`${iso}T00:00:00Z`);
  return !Number.isNaN(date.getTime()) && date.toISOString().startsWith(iso) ? iso : null;
}
