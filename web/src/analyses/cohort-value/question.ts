import type { Selection } from "../../audiences/definition";
import { frequentTypes, numbersOf, offeredTypes } from "../../audiences/editor/values";
import type { Schemas } from "../../lib/api/client";
import { workspace } from "../../lib/workspace.svelte";
import { Reader } from "../codec";
import { readSeries } from "../series";

export type Picture = Schemas["CohortValuePicture"];
/** What is drawn of the cohorts: what a person brought in so far, in each period, or as the mean of the periods so far. */
export const SHOWN = ["so_far", "per_person", "running"] as const;
export type Shown = (typeof SHOWN)[number];
export const SHOWN_WORDS: Record<Shown, string> = {
  so_far: "cumulative",
  per_person: "per period",
  running: "running average",
};

/** How often people did it, or whether: in place of a property that is added up. */
export const TIMES = "times" as const;
export const PEOPLE = "people" as const;

/** An event type with an amount of money, or with any number. */
function paid(): { event: string; property: string | null } {
  const types = offeredTypes();
  const money = types.find((type) => type.properties.some(({ quantity }) => quantity === "money"));
  const number = money ?? types.find(({ name }) => numbersOf(name).length);
  const event = number?.name ?? frequentTypes()[0] ?? "";
  const field =
    number?.properties.find(({ quantity }) => quantity === "money")?.name ?? numbersOf(event)[0] ?? null;
  return { event, property: field };
}

const ATTRIBUTE = "attribute:";

/** What winning a person has cost, as it stands in the address: one figure, or "attribute:cost". */
function costOf(text: string): { cost: number } | { cost_of: string } | null {
  if (text.startsWith(ATTRIBUTE)) return { cost_of: text.slice(ATTRIBUTE.length) };
  const cost = Number(text);
  return Number.isFinite(cost) && cost > 0 && cost <= 1e9 ? { cost } : null;
}

/** The attributes that may say what it has cost, with their words, as {@link costOf} reads them. */
export function costAttributes(): (readonly [string, string])[] {
  const numbers = (workspace.catalogue?.attributes ?? []).filter(({ type }) => type === "number");
  return numbers.map(({ name, display }) => [`${ATTRIBUTE}${name}`, `the ${display} of each`] as const);
}

/** What the address asks, and what is asked where it says nothing. */
export function read() {
  const reader = new Reader();
  const usual = paid();
  const named = reader.text("event");
  const start: Selection = named ? readSeries(reader)[0]! : { event: usual.event };
  const value: Selection = reader.selection("value") ?? { event: usual.event };
  const fields = numbersOf(value.event);
  const asked = reader.text("of");
  const property =
    asked === TIMES || asked === PEOPLE
      ? null
      : (asked ?? (value.event === usual.event ? usual.property : (fields[0] ?? null)));
  return {
    start,
    value,
    fields,
    property,
    people: asked === PEOPLE,
    cost: reader.parsed("cost", costOf),
    shown: reader.oneOf("what", SHOWN) ?? ("so_far" as const),
    by: reader.splits("by"),
    left: reader.left,
  };
}
