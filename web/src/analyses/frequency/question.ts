import type { Schemas } from "../../lib/api/client";
import { addDays } from "../../lib/format";
import { workspace } from "../../lib/workspace.svelte";
import { Reader, rising } from "../codec";
import { readSeries } from "../series";

export type Unit = NonNullable<Schemas["FrequencyQuestion"]["unit"]>;
export const UNITS: Record<Unit, string> = {
  events: "times",
  days: "days",
  weeks: "weeks",
  visits: "visits",
};
export const FORMS = ["beside", "stacked", "time"] as const;
export const FORM_NAMES = { beside: "side by side", stacked: "stacked", time: "over time" };
const DAYS = 30;
const MOST_EDGES = 30;
const MOST_LINES = 12;

/** Buckets of equal size, where that is asked for. */
const EQUAL = 10;

/** The least number of each bucket: "1,2,3,6", or all of one size: "every 5". Null where they do not rise. */
export function edgesOf(text: string): number[] | null {
  const size = /^\s*every\s+(\d{1,5})\s*$/.exec(text)?.[1];
  if (size === undefined) return rising(text, 1, MOST_EDGES);
  return Number(size) > 0 ? Array.from({ length: EQUAL }, (_, at) => 1 + at * Number(size)) : null;
}

/** What the address asks, and what is asked where it says nothing. */
export function read() {
  const reader = new Reader();
  return {
    series: readSeries(reader),
    unit: reader.oneOf("unit", Object.keys(UNITS) as Unit[]) ?? "events",
    edges: reader.parsed("edges", edgesOf),
    ofAll: reader.oneOf("who", ["all"] as const) === "all",
    from: reader.date("from") ?? addDays(workspace.asOf, 1 - DAYS),
    by: reader.splits("by"),
    behind: reader.oneOf("behind", ["previous", "year"] as const),
    drawn: reader.oneOf("bars", FORMS) ?? "beside",
    line: reader.whole("line", 0, MOST_LINES - 1) ?? 0,
    left: reader.left,
  };
}
