import { answer, api, type Schemas } from "../../lib/api/client";
import type { Attribute, Comparison, Filter, FieldType, Selection, Value } from "../definition";
import { addDays } from "../../lib/format";
import { eventDone, eventName } from "../../lib/names";
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
  const first: Record<FieldType, Comparison["compare"]> = {
    text: "is",
    number: "at_least",
    boolean: "is",
    date: "after",
    time: "after",
    list: "contains",
  };
  return { compare: first[fieldType(field)], value };
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

export async function newAttribute(name: string): Promise<Attribute> {
  return { name, ...(await firstComparison({ attribute: name })) };
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

/** The properties of the events meant, each once, with an event type that has it. */
export function eventFields(selection: Selection): (Schemas["Field"] & { owner: string })[] {
  const names = selection.events ?? (selection.event ? [selection.event] : null);
  const types = (workspace.catalogue?.event_types ?? []).filter(
    (type) => !names || names.includes(type.name),
  );
  const found = types.flatMap((type) => type.properties.map((field) => ({ ...field, owner: type.name })));
  return found.filter((field, index) => found.findIndex((other) => other.name === field.name) === index);
}

/** The names of the event types offered, the most frequent first. */
export function frequentTypes(): string[] {
  return offeredTypes()
    .toSorted((one, other) => other.count - one.count)
    .map(({ name }) => name);
}

/** The same as what people did: "ended a ride or bought a pass". */
export function doneOf(selection: Selection): string {
  const names = selection.event ? [selection.event] : selection.events;
  return names?.map(eventDone).join(" or ") ?? "did anything";
}

/** Which events are meant, in words. */
export function namesOf(selection: Selection): string {
  const names = selection.event ? [selection.event] : selection.events;
  return names?.map(eventName).join(" or ") ?? "anything";
}
