import type { Schemas } from "../../lib/api/client";
import { addDays } from "../../lib/format";
import { workspace } from "../../lib/workspace.svelte";
import { Reader } from "../codec";
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
const MOST = 1_000_000;

/** The least number of each bucket: "1,2,3,6". Null where they do not rise. */
export function edgesOf(text: string): number[] | null {
  const found = text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number);
  const rise = found.every(
    (edge, at) => Number.isInteger(edge) && edge >= 1 && edge <= MOST && edge > (found[at - 1] ?? 0),
  );
  return found.length > 0 && found.length <= MOST_EDGES && rise ? found : null;
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
    by: reader.split("by"),
    behind: reader.oneOf("behind", ["previous"] as const),
    drawn: reader.oneOf("bars", FORMS) ?? "beside",
    left: reader.left,
  };
}
