import type { Schemas } from "../../lib/api/client";
import { levels } from "../../audiences/editor/eventConditions";
import { frequentTypes } from "../../audiences/editor/values";
import { Reader, rising } from "../codec";
import { readSeries } from "../series";

export type Picture = Schemas["ExperiencePicture"];
export type Along = Picture["along"];
export const ALONG: Record<Along, string> = {
  visit: "visit number",
  day: "day since first seen",
  week: "week since first seen",
  time: "total minutes spent",
  level: "highest value so far of",
};
export const MEASURES = ["rates", "per_person", "shares", "people"] as const;
export type Measure = (typeof MEASURES)[number];
const MOST_EDGES = 40;

/** What rates are of. Null along what has none. */
export function each(along: Along): string | null {
  return along === "time" || along === "level" ? null : along;
}

export function measureName(measure: Measure, along: Along): string {
  return {
    rates: `times per ${each(along)}`,
    per_person: "times per person",
    shares: "share of events",
    people: "people",
  }[measure];
}

/** Where places may begin: "1,2,3,6". Null where they do not rise. */
export const edgesOf = (text: string) => rising(text, 0, MOST_EDGES);

/** Numbers of event types, by which people may reach levels: "ride_ended:distance_km". */
export const levelChoices = () =>
  levels().map(({ event, property, text }) => [`${event}:${property}`, text] as const);

/** What the address asks, and what is asked where it says nothing. */
export function read() {
  const reader = new Reader();
  const along = reader.oneOf("along", Object.keys(ALONG) as Along[]) ?? "visit";
  const level = reader.text("level") ?? levelChoices()[0]?.[0] ?? "";
  const [event, ...property] = level.split(":");
  const measure = reader.oneOf("what", MEASURES) ?? "rates";
  const series = readSeries(reader);
  const second = frequentTypes().find((name) => name !== series[0]!.event);
  return {
    series: reader.text("event") || !second ? series : [series[0]!, { event: second }],
    along,
    level,
    asksLevel: along === "level" ? { level: { event: event!, property: property.join(":") } } : {},
    measure: measure === "rates" && !each(along) ? ("per_person" as const) : measure,
    edges: reader.parsed("edges", edgesOf),
    from: reader.date("from"),
    by: reader.splits("by"),
    left: reader.left,
  };
}
