import type { Schemas } from "../../lib/api/client";
import type { AnalysisName } from "../../lib/api/ask";
import { addDays } from "../../lib/format";

export type Page = Schemas["PageDetail"];
export type Block = Schemas["PageBlock"];
export type Drawn = NonNullable<Schemas["DrawnTable"]>;
export type Saved = Schemas["SavedAnalysis"];
/** What is written anew on a page. */
export type Written = Pick<Page, "name" | "blocks" | "private" | "schedule" | "destination_id">;

export const PAGES = "/analyses/pages";
const DAYS_BEFORE = /^-\d{1,6}$/;
const DATES = ["from", "to"];

/** What a saved analysis asks as of a date: its dates that move along are counted from there. */
export function asks(saved: Saved, asOf: string): Record<string, unknown> | null {
  if (!saved.asks) return null;
  const own = saved.asks as Record<string, unknown>;
  const date = typeof own.as_of === "string" ? own.as_of : asOf;
  const dated = Object.entries(own).map(([name, value]) => [
    name,
    DATES.includes(name) && typeof value === "string" && DAYS_BEFORE.test(value)
      ? addDays(date, Number(value))
      : value,
  ]);
  return { ...Object.fromEntries(dated), as_of: date };
}

export function analysisOf(saved: Saved): AnalysisName {
  return saved.analysis as AnalysisName;
}

export function written({ name, blocks, private: own, schedule, destination_id }: Page): Written {
  return { name, blocks: structuredClone(blocks), private: own, schedule, destination_id };
}

/** The list with one block moved by a place. */
export function moved<T>(list: T[], at: number, by: 1 | -1): T[] {
  const to = at + by;
  if (to < 0 || to >= list.length) return list;
  const found = [...list];
  [found[at], found[to]] = [found[to]!, found[at]!];
  return found;
}
