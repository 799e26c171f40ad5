import { answer, api, type Schemas } from "../api/client";
import type { Attribute, Comparison, Did, Filter, FieldType, Node, Value } from "../definition";
import { addDays } from "../format";
import { workspace } from "../workspace.svelte";

export type Found = { value: string; count: number };
/** A field of the catalogue: an attribute, or a property of an event type. */
export type FieldRef = { attribute: string } | { event: string; property: string };

/** The most frequent values of a field. */
export async function topValues(field: FieldRef): Promise<Found[]> {
  return (await answer(api.GET("/catalogue/values", { params: { query: field } }))).values;
}

export function fieldType(field: FieldRef): FieldType {
  const fields =
    "attribute" in field
      ? workspace.catalogue?.attributes
      : workspace.catalogue?.event_types.find((type) => type.name === field.event)?.properties;
  const name = "attribute" in field ? field.attribute : field.property;
  return fields?.find((entry) => entry.name === name)?.type ?? "text";
}

/** A first comparison for a field that is complete and likely to be near what is meant. */
export async function firstComparison(field: FieldRef): Promise<Comparison> {
  const value = await firstValue(field);
  const compare = {
    text: "is",
    number: "at_least",
    boolean: "is",
    date: "after",
    time: "after",
    list: "contains",
  }[fieldType(field)];
  return { compare, value };
}

export async function firstValue(field: FieldRef): Promise<Value> {
  switch (fieldType(field)) {
    case "number":
      return 1;
    case "boolean":
      return true;
    case "date":
    case "time":
      return addDays(workspace.asOf, -30);
    default:
      return (await topValues(field))[0]?.value ?? "";
  }
}

export async function newAttribute(name?: string): Promise<Attribute | null> {
  const chosen = name ?? workspace.catalogue?.attributes[0]?.name;
  return chosen ? { name: chosen, ...(await firstComparison({ attribute: chosen })) } : null;
}

export async function newFilter(event: string, property: string): Promise<Filter> {
  return { property, ...(await firstComparison({ event, property })) };
}

/** The event types offered for choosing: all but the hidden ones. */
export function offeredTypes(): Schemas["EventType"][] {
  return (workspace.catalogue?.event_types ?? []).filter((type) => !type.hidden);
}

export function newDid(): Did | null {
  const types = offeredTypes().sort((a, b) => b.count - a.count);
  return types[0] ? { event: types[0].name, count: { at_least: 1 }, window: { last_days: 30 } } : null;
}

/** A first clause of each kind that is written as JSON, about what happens most. */
export function templates(audience?: number): [string, Node][] {
  const [most, other] = offeredTypes().sort((a, b) => b.count - a.count);
  if (!most) return [];
  const event = most.name;
  const next = (other ?? most).name;
  const name = workspace.catalogue?.attributes[0]?.name;
  const found: [string, Node][] = [
    ["who did something for the first time …", { first: { event, window: { last_days: 10 } } }],
    ["who did something for the last time …", { last: { event, window: { last_days: 30 } } }],
    ["who do something week by week …", { rhythm: { event, each: "week", last: 4 } }],
    ["who did things within one visit …", { visit: { all: [{ event }, { event: next }] } }],
    [
      "who did one thing and then another …",
      { order: { steps: [{ event }, { event: next, within: { days: 7 } }] } },
    ],
    [
      "who did something and then not another …",
      { order: { steps: [{ event }], then_not: { event: next, within: { days: 7 } } } },
    ],
    ["who entered a state …", { lifecycle: { is: ["dormant"], entered_last_days: 7 } as never }],
  ];
  if (name) found.push(["whose attribute changed …", { changed: { name, window: { last_days: 30 } } }]);
  if (audience) found.push(["who are in another audience …", { audience: { id: audience } }]);
  return found;
}

/** A complete new clause of a kind, or null where there is nothing it could be about. */
export async function newClause(kind: "attribute" | "did" | "lifecycle"): Promise<Node | null> {
  if (kind === "lifecycle") return { lifecycle: { is: ["dormant"] } };
  if (kind === "did") {
    const did = newDid();
    return did && { did };
  }
  const attribute = await newAttribute();
  return attribute && { attribute };
}
