import type { Schemas } from "./api/client";
import { decimals, percent } from "./format";
import { workspace } from "./workspace.svelte";

/** What event types, properties, attributes and campaigns are called on screen; a raw name where there is none. */
export function eventName(raw: string): string {
  return eventType(raw)?.noun ?? raw;
}

/** What whoever did it has done: "ended a ride". */
export function eventDone(raw: string): string {
  return eventType(raw)?.phrase ?? `had “${eventName(raw)}” events`;
}

export function eventType(raw: string): Schemas["EventType"] | undefined {
  const name = workspace.catalogue?.aliases[raw] ?? raw;
  return workspace.catalogue?.event_types.find((type) => type.name === name);
}

export function attributeName(raw: string): string {
  return attributeField(raw)?.display ?? raw;
}

export function attributeField(raw: string): Schemas["Field"] | undefined {
  return workspace.catalogue?.attributes.find((field) => field.name === raw);
}

/** A property of an event type, or of whichever has it. */
export function propertyField(raw: string, event?: string | null): Schemas["Field"] | undefined {
  const type = event ? eventType(event) : undefined;
  const types = type ? [type] : (workspace.catalogue?.event_types ?? []);
  return types.flatMap(({ properties }) => properties).find((field) => field.name === raw);
}

export function propertyName(raw: string, event?: string | null): string {
  return propertyField(raw, event)?.display ?? raw;
}

export function campaignName(raw: string): string {
  const messaging = workspace.catalogue?.messaging;
  return propertyField(messaging?.campaign ?? "campaign", messaging?.received)?.values?.[raw] ?? raw;
}

/** The field whose values people are told apart by; nothing for states and profile types. */
export function splitField(by: Schemas["SingleSplit"] | null): Schemas["Field"] | undefined {
  if (by?.attribute) return attributeField(by.attribute);
  return by?.property ? propertyField(by.property.of, by.property.event) : undefined;
}

/** A value of a split, which comes as text. */
export function groupSaid(by: Schemas["SingleSplit"] | null, value: string): string {
  const field = splitField(by);
  return valueSaid(field, field?.type === "number" ? Number(value) : value);
}

/** A number with its unit, or a value by its name. */
export function valueSaid(field: Schemas["Field"] | undefined, value: unknown): string {
  if (typeof value === "string" && field?.values?.[value]) return field.values[value];
  if (typeof value !== "number" || !(field?.quantity || field?.unit)) return String(value ?? "–");
  return quantitySaid(value, field.quantity, field.unit);
}

/** Money to hundredths, shares as percentages, anything else to four places. */
export function quantitySaid(value: number, quantity?: string | null, unit?: string | null): string {
  if (quantity === "share") return percent(value);
  const said = quantity === "money" ? decimals(value, 2, 2) : decimals(value, 0, 4);
  return unit ? `${said} ${unit}` : said;
}
