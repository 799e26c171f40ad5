import { address } from "./address.svelte";
import type { Node } from "../audiences/definition";

/** A group of people as conditions that all hold; a node in the shape the server gave it counts as well. */
export type Conditions = (Node | object)[];

function link(place: string, conditions: Conditions, asOf: string | null): string {
  return address.to(place, { definition: JSON.stringify({ all: conditions }), as_of: asOf });
}

/** The list of a group's people, as of a date or of that of the page. */
export function peopleOf(conditions: Conditions, asOf: string | null = null): string {
  return link("/people", conditions, asOf);
}

/** The same group as a sentence that can be kept. */
export function audienceOf(conditions: Conditions, asOf: string | null = null): string {
  return link("/audiences/new", conditions, asOf);
}
