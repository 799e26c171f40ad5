import { answer, api, type Schemas } from "../../lib/api/client";
import type { Attribute, Comparison, Did, Filter, FieldType, Node, Selection, Value } from "../definition";
import { addDays } from "../../lib/format";
import { workspace } from "../../lib/workspace.svelte";

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
export async function firstComparison(
  field: FieldRef | { event?: string; property: string },
): Promise<Comparison> {
  if ("property" in field && !field.event) return { compare: "is_set" };
  return comparisonOf(field as FieldRef);
}

async function comparisonOf(field: FieldRef): Promise<Comparison> {
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

/** The properties of an event type that are numbers. */
export function numbersOf(event: string | undefined): string[] {
  const type = workspace.catalogue?.event_types.find(({ name }) => name === event);
  return (type?.properties ?? []).filter(({ type }) => type === "number").map(({ name }) => name);
}

export const CHANNELS: [string, string][] = [
  ["email", "e-mail"],
  ["sms", "SMS"],
  ["push", "push"],
];
export const KINDS: [string, string][] = [
  ["customer", "customers"],
  ["contact", "contacts"],
  ["visitor", "visitors"],
];

/** The properties of the events meant, each once, with an event type that has it. */
export function eventFields(selection: Selection): (Schemas["Field"] & { owner: string })[] {
  const names = selection.events ?? (selection.event ? [selection.event] : null);
  const types = (workspace.catalogue?.event_types ?? []).filter(
    (type) => !names || names.includes(type.name),
  );
  const found = types.flatMap((type) => type.properties.map((field) => ({ ...field, owner: type.name })));
  return found.filter((field, index) => found.findIndex((other) => other.name === field.name) === index);
}

export type ClauseKind =
  | "attribute"
  | "kind"
  | "reachable"
  | "audience"
  | "changed"
  | "did"
  | "first"
  | "rhythm"
  | "visit"
  | "order"
  | "then_not"
  | "campaign"
  | "lifecycle"
  | "entered";

/** What a sentence can go on with, by what it is about. */
export const CLAUSE_KINDS: [string, "who" | "what" | "state", [ClauseKind, string][]][] = [
  [
    "who they are",
    "who",
    [
      ["attribute", "whose attribute …"],
      ["changed", "whose attribute changed …"],
      ["kind", "who are of a kind …"],
      ["reachable", "who can be reached …"],
      ["audience", "who are in another audience …"],
    ],
  ],
  [
    "what they did",
    "what",
    [
      ["did", "who did …"],
      ["first", "who did it for the first time …"],
      ["rhythm", "who do it week by week …"],
      ["visit", "who did things within one visit …"],
      ["order", "who did one thing and then another …"],
      ["then_not", "who did one thing and then not another …"],
      ["campaign", "who answered messages, or ignored them …"],
    ],
  ],
  [
    "their state",
    "state",
    [
      ["lifecycle", "who are in a state …"],
      ["entered", "who entered a state …"],
    ],
  ],
];

/** A complete new clause of a kind, or null where there is nothing it could be about. */
export async function newClause(kind: ClauseKind): Promise<Node | null> {
  const [most, other] = offeredTypes().sort((a, b) => b.count - a.count);
  const name = workspace.catalogue?.attributes[0]?.name;
  switch (kind) {
    case "kind":
      return { kind: { is: ["customer"] } };
    case "reachable":
      return { reachable: { by: ["email"] } };
    case "campaign":
      return { campaign: { was: "ignored", last: 5 } };
    case "lifecycle":
      return { lifecycle: { is: ["dormant"] } };
    case "entered":
      return { lifecycle: { is: ["dormant"], entered_last_days: 7 } };
    case "attribute": {
      const attribute = await newAttribute();
      return attribute && { attribute };
    }
    case "changed":
      return name ? { changed: { name, window: { last_days: 30 } } } : null;
    case "audience": {
      const first = (await answer(api.GET("/audiences"))).audiences[0];
      return first ? { audience: { id: first.id } } : null;
    }
    default:
      return most ? about(kind, most.name, (other ?? most).name) : null;
  }
}

function about(kind: ClauseKind, event: string, next: string): Node | null {
  switch (kind) {
    case "did": {
      const did: Did = { event, count: { at_least: 1 }, window: { last_days: 30 } };
      return { did };
    }
    case "first":
      return { first: { event, window: { last_days: 10 } } };
    case "rhythm":
      return { rhythm: { event, each: "week", last: 4 } };
    case "visit":
      return { visit: { all: [{ event }, { event: next }], window: { last_days: 90 } } };
    case "order":
      return { order: { steps: [{ event }, { event: next, within: { days: 7 } }] } };
    case "then_not":
      return { order: { steps: [{ event }], then_not: { event: next, within: { days: 7 } } } };
    default:
      return null;
  }
}
