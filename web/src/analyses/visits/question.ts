import type { Schemas } from "../../lib/api/client";
import { address } from "../../lib/address.svelte";
import { decimals, number, percent } from "../../lib/format";
import { Reader, rising } from "../codec";

type Question = Schemas["VisitsQuestion"];
export type Picture = Schemas["VisitsPicture"];
export type Figure = keyof Picture["rows"][number]["figures"];
export type Unit = NonNullable<Question["unit"]>;
/** How a sentence begins that asks for each figure, what the figure is called, and what it is. */
export const FIGURES: Record<
  Figure,
  { asks: string; name: string; is: "count" | "mean" | "time" | "share" }
> = {
  visits: { asks: "Number of visits", name: "visits", is: "count" },
  people: { asks: "People who visit", name: "people", is: "count" },
  per_person: { asks: "Visits per person", name: "visits per person", is: "mean" },
  days: { asks: "Days with a visit per person", name: "days with a visit per person", is: "mean" },
  mean: { asks: "Mean visit length", name: "mean length", is: "time" },
  median: { asks: "Median visit length", name: "median length", is: "time" },
  p90: {
    asks: "90th percentile of visit length",
    name: "90th percentile of length",
    is: "time",
  },
  per_day: {
    asks: "Time per person per day with a visit",
    name: "time per person and day",
    is: "time",
  },
  single: { asks: "Share of single-event visits", name: "single-event visits", is: "share" },
};
export const SHOWN = ["time", "length", "often", "clock", "since"] as const;
export const SHOWN_AS = {
  time: "over time",
  length: "by length",
  often: "by visits per person",
  clock: "by hour of the week",
  since: "since first seen",
};
export const UNITS: Record<Unit, string> = { seconds: "seconds", minutes: "minutes", hours: "hours" };
const SECONDS: Record<Unit, number> = { seconds: 1, minutes: 60, hours: 3600 };
const SIGNS: Record<Unit, string> = { seconds: "s", minutes: "min", hours: "h" };
const ORDERS = ["visits", "people", "time"] as const;
const SUM = "sum:";
const MOST_EDGES = 30;
/** Parts of a second, or of a unit, that an edge of lengths has at least. */
const LEAST = 0.01;
const FIRST = "first:";

/** A figure in the unit it is told in, as pictures draw it. */
export function inUnit(figure: Figure, value: number | null, unit: Unit): number | null {
  return value !== null && FIGURES[figure].is === "time" ? value / SECONDS[unit] : value;
}

/** A figure of {@link inUnit} with its unit. */
export function said(figure: Figure, value: number | null, unit: Unit): string {
  if (value === null) return "–";
  switch (FIGURES[figure].is) {
    case "count":
      return number(value);
    case "share":
      return percent(value);
    case "mean":
      return decimals(value, 1, 1);
    case "time":
      return `${decimals(value, 0, 1)} ${SIGNS[unit]}`;
  }
}

/** Where the bars of lengths begin, in the unit they are told in. */
export const edgesOf = (text: string) => rising(text, LEAST, MOST_EDGES, true);

/** The same in seconds, as questions take it; edges that fall on the same second are one. */
export function edgesInSeconds(edges: number[], unit: Unit): number[] {
  return [...new Set(edges.map((edge) => Math.max(1, Math.round(edge * SECONDS[unit]))))];
}

/** By what the values with lines of their own are the greatest, as the address has it: "sum:pass_bought:price". */
function order(text: string | null) {
  if (!text?.startsWith(SUM)) return { order: ORDERS.find((one) => one === text) ?? "visits" };
  const [event = "", ...property] = text.slice(SUM.length).split(":");
  return { order: "sum" as const, order_by: { event, property: property.join(":") } };
}

/** What the address asks. */
export function read() {
  const reader = new Reader();
  const told = address.get("by") ?? "";
  const first = told.startsWith(FIRST) ? told.slice(FIRST.length) : null;
  const newness = told === "new";
  const doing = told === "did" ? (reader.selection("doing") ?? null) : null;
  return {
    figure: reader.oneOf("figure", Object.keys(FIGURES) as Figure[]) ?? "visits",
    shown: reader.oneOf("shown", SHOWN) ?? "time",
    unit: reader.oneOf("unit", Object.keys(UNITS) as Unit[]) ?? "minutes",
    ordered: order(reader.text("most")),
    edges: reader.parsed("edges", edgesOf),
    row: reader.whole("row", 0, 20) ?? 0,
    told,
    first,
    newness,
    doing,
    by: first || newness || told === "did" ? null : reader.splits("by"),
    left: reader.left,
  };
}
