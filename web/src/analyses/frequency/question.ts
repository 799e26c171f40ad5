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
export const FORM_NAMES = { beside: "beside each other", stacked: "stacked", time: "over time" };
const DAYS = 30;
const MOST_EDGES = 30;

/** The least number of each bucket: "1,2,3,6". Null where they do not rise. */
export const edgesOf = (text: string) => rising(text, 1, MOST_EDGES);

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
    left: reader.left,
  };
}
