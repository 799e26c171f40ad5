import type { Schemas } from "../../lib/api/client";
import { propertyName } from "../../lib/names";
import { workspace } from "../../lib/workspace.svelte";
import type { EventCondition, FieldType, SoFarFilter } from "../definition";
import { fieldType, firstComparison, newFilter, offeredTypes } from "./values";

/** What a condition on an event can be about: a property, what an attribute of the person was at that time, or how far the
 * person had got by then. */
type Subject = { value: string; text: string; note?: string };
/** A property, with an event type that has it. */
export type Owned = Schemas["Field"] & { owner: string };

const ATTRIBUTE = "attribute:";
const SO_FAR = "so_far:";

/** Numbers of event types, by which people may reach levels. */
export function levels(): { event: string; property: string; text: string }[] {
  return offeredTypes().flatMap((type) =>
    type.properties
      .filter((field) => field.type === "number")
      .map(({ name, display }) => ({ event: type.name, property: name, text: `${display} of ${type.noun}` })),
  );
}

/** Names what a condition is about. */
export function subjectOf(condition: EventCondition): string {
  if ("property" in condition) return condition.property;
  if ("attribute" in condition) return `${ATTRIBUTE}${condition.attribute}`;
  return soFar(condition.so_far);
}

const soFar = (what: SoFarFilter["so_far"]) =>
  `${SO_FAR}${what === "minutes_spent" ? what : JSON.stringify([what.event, what.property])}`;

/** All that there is to choose from. */
export function subjects(fields: Owned[]): Subject[] {
  return [
    ...fields.map(({ name, owner, type }) => ({ value: name, text: propertyName(name, owner), note: type })),
    ...subjectsOfPerson(),
  ];
}

/** What is known of the person at that time. */
export function subjectsOfPerson(): Subject[] {
  const attributes = workspace.catalogue?.attributes ?? [];
  return [
    ...attributes
      .filter(({ type }) => type !== "list")
      .map(({ name, display, type }) => ({
        value: `${ATTRIBUTE}${name}`,
        text: `${display} at that time`,
        note: type,
      })),
    { value: soFar("minutes_spent"), text: "minutes spent so far", note: "number" },
    ...levels().map(({ text, ...what }) => ({
      value: soFar(what),
      text: `highest ${text} so far`,
      note: "number",
    })),
  ];
}

/** A condition that is complete and likely to be near what is meant. */
export async function conditionOn(subject: string, fields: Owned[]): Promise<EventCondition> {
  if (subject.startsWith(ATTRIBUTE)) {
    const attribute = subject.slice(ATTRIBUTE.length);
    return { attribute, ...(await firstComparison({ attribute })) };
  }
  if (subject.startsWith(SO_FAR)) return { so_far: soFarOf(subject), compare: "at_least", value: 1 };
  return newFilter(fields.find(({ name }) => name === subject)!.owner, subject);
}

function soFarOf(subject: string): SoFarFilter["so_far"] {
  const what = subject.slice(SO_FAR.length);
  if (what === "minutes_spent") return what;
  const [event, property] = JSON.parse(what) as [string, string];
  return { event, property };
}

/** What kind of values a condition compares. */
export function comparedType(condition: EventCondition, fields: Owned[]): FieldType {
  if ("so_far" in condition) return "number";
  if ("attribute" in condition) return fieldType({ attribute: condition.attribute });
  const event = fields.find(({ name }) => name === condition.property)?.owner ?? "";
  return fieldType({ event, property: condition.property });
}
