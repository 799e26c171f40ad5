import type { Schemas } from "../lib/api/client";

export type Inspection = Schemas["Inspection"];
export type Mapping = Schemas["ImportMapping"];
export type Kind = Inspection["kind"];

/** What a column of a file can mean. */
export const MEANINGS: Record<Kind, [string, string][]> = {
  events: [
    ["identifier.customer", "customer ID"],
    ["identifier.visitor", "visitor ID"],
    ["identifier.email", "email address"],
    ["identifier.phone", "phone number"],
    ["custom", "custom ID"],
    ["type", "event type"],
    ["time", "time"],
    ["id", "event ID"],
    ["source", "source"],
    ["received_at", "received at"],
    ["field", "property"],
    ["ignore", "ignore"],
  ],
  profiles: [
    ["identifier.customer", "customer ID"],
    ["identifier.visitor", "visitor ID"],
    ["identifier.email", "email address"],
    ["identifier.phone", "phone number"],
    ["custom", "custom ID"],
    ["time", "valid from"],
    ["field", "attribute"],
    ["ignore", "ignore"],
  ],
};
const STANDARD = ["customer", "visitor", "email", "phone"];

/** What a mapping takes a column for. */
export function meaningOf(mapping: Mapping, column: string): string {
  if (mapping.ignore?.includes(column)) return "ignore";
  const ours = Object.entries(mapping.columns ?? {}).find(([, name]) => name === column)?.[0];
  if (!ours) return "field";
  const kind = /^identifier\.(.*)$/.exec(ours)?.[1];
  return kind && !STANDARD.includes(kind) ? "custom" : ours;
}

/** The mapping with another meaning of a column; whatever had that meaning before becomes a field. */
export function meaning(mapping: Mapping, column: string, meaning: string): Mapping {
  const columns = Object.fromEntries(
    Object.entries(mapping.columns ?? {}).filter(([ours, name]) => name !== column && ours !== meaning),
  );
  const ignore = (mapping.ignore ?? []).filter((name) => name !== column);
  if (meaning === "ignore") ignore.push(column);
  else if (meaning === "custom") columns[`identifier.${customName(column)}`] = column;
  else if (meaning !== "field") columns[meaning] = column;
  const custom_ids = Object.keys(columns)
    .map((ours) => ours.replace(/^identifier\./, ""))
    .filter(
      (kind, index) => Object.keys(columns)[index]!.startsWith("identifier.") && !STANDARD.includes(kind),
    );
  const constants = { ...mapping.constants };
  if (columns.type) delete constants.type;
  const time_format = columns.time === mapping.columns?.time ? mapping.time_format : null;
  return { ...mapping, columns, ignore, custom_ids, constants, time_format };
}

/** A custom ID is called as its column is. */
function customName(column: string): string {
  return (
    column
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^_+|_+$/g, "") || "custom"
  );
}

/** What is missing before a file can be imported; nothing where it can be. */
export function missing({ kind, mapping, own, times }: Inspection): string[] {
  if (own) return [];
  const columns = mapping.columns ?? {};
  const found = [];
  if (!Object.keys(columns).some((ours) => ours.startsWith("identifier.") || ours === "subject"))
    found.push("Choose the column that identifies the person: a customer ID, email address or custom ID.");
  if (kind === "events" && !columns.time) found.push("Choose the time column.");
  if (kind === "events" && !columns.type && !mapping.constants?.type)
    found.push("Choose the event type column, or enter one event type for all rows.");
  if (times.ambiguous && !mapping.time_format)
    found.push(`Choose how “${times.example}” is read: day first or month first.`);
  else if (times.example && !mapping.time_format)
    found.push(`Times such as “${times.example}” cannot be read; choose another column for the time.`);
  return found;
}
