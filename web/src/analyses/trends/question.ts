import type { Schemas } from "../../lib/api/client";
import { address } from "../../lib/address.svelte";
import { Reader } from "../codec";
import { readSeries } from "../series";
import { DECIDING, MOST_VALUES } from "./TopPhrases.svelte";

export type Measure = NonNullable<Schemas["TrendsQuestion"]["measure"]>;
/** How a sentence begins that asks for each measure, and how it goes on once a property has been named. */
export const MEASURES: Record<Measure, string> = {
  people: "How many people",
  times: "How many times people",
  per_person: "Times per person, for people who",
  share_of_active: "% of active people who",
  sum: "The total",
  mean: "The mean",
  median: "The median",
  p90: "The 90th percentile of",
  min: "Minimum",
  max: "Maximum",
  sum_per_person: "Total per person of",
  distinct: "Number of distinct values of",
};
const PLAIN: Measure[] = ["people", "times", "per_person", "share_of_active"];
const COMBINED = ["per", "plus", "minus"] as const;
export const FORMS = ["lines", "bars", "shares"] as const;
const OF_EVENTS = "event:";

export function ofProperty(measure: Measure): boolean {
  return !PLAIN.includes(measure);
}

/** What the address asks. Null for what it does not say. */
export function read() {
  const reader = new Reader();
  const told = address.get("by");
  const byEvent = told?.startsWith(OF_EVENTS) ? told.slice(OF_EVENTS.length) : null;
  const series = readSeries(reader);
  const by = byEvent ? reader.besides() : reader.splits("by");
  return {
    series,
    measure: reader.oneOf("measure", Object.keys(MEASURES) as Measure[]) ?? "people",
    property: reader.text("of"),
    combined: series.length === 2 ? reader.oneOf("combined", COMBINED) : null,
    byEvent,
    by,
    /** Whether values are told apart of which some may have no line of their own. */
    values: Boolean(byEvent || (by && !("grouping" in by))),
    top: reader.whole("top", 1, MOST_VALUES),
    most: reader.oneOf("most", DECIDING),
    behind: reader.oneOf("behind", ["previous", "year"] as const),
    drawn: reader.oneOf("drawn", FORMS) ?? "lines",
    hidden: (address.get("hidden") ?? "").split(",").filter(Boolean).map(Number),
    left: reader.left,
  };
}
