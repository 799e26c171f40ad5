import { address } from "./address.svelte";
import type { Node } from "../audiences/definition";

/** A group of people as clauses that all hold; a node in the shape the server gave it counts as well. */
export type Clauses = (Node | object)[];

function link(place: string, clauses: Clauses, asOf: string | null): string {
  return address.to(place, { definition: JSON.stringify({ all: clauses }), as_of: asOf });
}

/** The list of a group's people, as of a date or of that of the page. */
export function peopleOf(clauses: Clauses, asOf: string | null = null): string {
  return link("/people", clauses, asOf);
}

/** The same group as a sentence that can be kept. */
export function audienceOf(clauses: Clauses, asOf: string | null = null): string {
  return link("/audiences/new", clauses, asOf);
}
