import { parsed } from "../lib/shapes";
import type { Schemas } from "../lib/api/client";
import type { Node } from "../audiences/definition";
import type { Column } from "../exports/exports";

/** The columns named in the address; none where they make no sense. */
export function columnsOf(text: string | null): Column[] {
  const given = parsed(text ?? "[]", Array.isArray) ?? [];
  return given.filter((one: Column | null) => typeof one?.take === "string");
}

/** People picked by hand as conditions: a list for each kind of identifier by which they are called. */
export function listed(people: Schemas["PersonRow"][]): Node[] {
  const named = people.flatMap(({ identifiers }) => identifiers.slice(0, 1));
  const kinds = [...new Set(named.map(({ kind }) => kind))];
  const lists = kinds.map((by) => ({
    listed: { by, values: named.filter(({ kind }) => kind === by).map(({ value }) => value) },
  }));
  return lists.length > 1 ? [{ any: lists }] : lists;
}
