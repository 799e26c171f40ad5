import type { Schemas } from "./api/client";
import type { State } from "./states";

/** An audience definition as JSON; its rules and wording are the server's, here it is only taken apart and put together. */
export type Value = string | number | boolean;
export type Comparison = { compare: string; value?: Value; ignore_case?: boolean };
export type Filter = Comparison & { property: string };
export type Count =
  { at_least: number } | { at_most: number } | { exactly: number } | { between: [number, number] };
export type Window = { last_days: number } | { from: string; to: string } | { ever: true };
export type Did = { event: string; where?: Filter[]; count?: Count; window?: Window };
export type Attribute = Comparison & { name: string; ever?: boolean };
export type Node = {
  all?: Node[];
  any?: Node[];
  not?: Node;
  attribute?: Attribute;
  did?: Did;
  lifecycle?: { is: State[] };
} & Partial<Record<OtherKind, unknown>>;
/** Clauses that are written as JSON and shown as a sentence. */
export type OtherKind = "first" | "last" | "rhythm" | "visit" | "order" | "changed" | "audience";
export type Definition = { all: Node[] };
export type FieldType = Schemas["Field"]["type"];

type Step = string | number;

/** The comparisons a type allows, in words. */
export const COMPARISONS: Record<FieldType, [string, string][]> = {
  text: [
    ["is", "is"],
    ["is_not", "is not"],
    ["contains", "contains"],
    ["does_not_contain", "does not contain"],
    ["starts_with", "starts with"],
    ["ends_with", "ends with"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
  number: [
    ["is", "is"],
    ["is_not", "is not"],
    ["greater", "is more than"],
    ["at_least", "is at least"],
    ["less", "is less than"],
    ["at_most", "is at most"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
  boolean: [
    ["is", "is"],
    ["is_not", "is not"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
  date: [
    ["before", "is before"],
    ["after", "is after"],
    ["is", "is"],
    ["is_not", "is not"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
  list: [
    ["contains", "contains"],
    ["does_not_contain", "does not contain"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
  time: [
    ["before", "is before"],
    ["after", "is after"],
    ["is", "is on"],
    ["is_not", "is not on"],
    ["is_set", "is set"],
    ["is_not_set", "is not set"],
  ],
};

export function needsValue(compare: string): boolean {
  return compare !== "is_set" && compare !== "is_not_set";
}

/** Any definition with an `all` at its root, as the editor wants it. */
export function rooted(node: Node): Definition {
  return node.all ? { all: node.all } : { all: [node] };
}

/** "all[1].any[0]" → ["all", 1, "any", 0] */
export function steps(place: string): Step[] {
  return [...place.matchAll(/([a-z_]+)|\[(\d+)\]/g)].map((match) => match[1] ?? Number(match[2]));
}

export function nodeAt(definition: Definition, place: string): Node | undefined {
  let here: unknown = definition;
  for (const step of steps(place)) here = (here as Record<Step, unknown> | undefined)?.[step];
  return here as Node | undefined;
}

/** A copy with the node at a place replaced. */
export function replaced(definition: Definition, place: string, node: Node): Definition {
  const path = steps(place);
  const copy = structuredClone(definition);
  let here: unknown = copy;
  for (const step of path.slice(0, -1)) here = (here as Record<Step, unknown>)[step];
  (here as Record<Step, unknown>)[path.at(-1)!] = node;
  return copy;
}

/** A copy without the node at a place; a negation or group left empty by it goes too. */
export function removed(definition: Definition, place: string): Definition {
  const path = steps(place);
  const last = path.at(-1);
  const parent = textOf(path.slice(0, typeof last === "number" ? -2 : -1));
  if (typeof last !== "number") return removed(definition, parent);

  const copy = structuredClone(definition);
  const list = listAt(copy, path.slice(0, -1));
  list.splice(last, 1);
  return list.length === 0 && parent !== "" ? removed(definition, parent) : copy;
}

/** A copy with a node added to the group at a place. */
export function added(definition: Definition, group: string, node: Node): Definition {
  const copy = structuredClone(definition);
  listAt(copy, steps(group)).push(node);
  return copy;
}

/** A copy with a clause moved among its neighbours; the same where it cannot move. */
export function moved(definition: Definition, place: string, by: -1 | 1): Definition {
  const path = steps(place);
  const index = path.at(-1);
  const copy = structuredClone(definition);
  if (typeof index !== "number") return copy;
  const list = listAt(copy, path.slice(0, -1));
  if (index + by < 0 || index + by >= list.length) return copy;
  const [node] = list.splice(index, 1);
  list.splice(index + by, 0, node!);
  return copy;
}

/** The opposite of a clause: "did" turns to "did not" and back, others are put under or taken from a `not`. */
export function negated(node: Node): Node {
  if (node.not) return node.not;
  if (node.did) {
    const none = node.did.count && "exactly" in node.did.count && node.did.count.exactly === 0;
    return { did: { ...node.did, count: none ? { at_least: 1 } : { exactly: 0 } } };
  }
  return { not: node };
}

function listAt(definition: Definition, path: Step[]): Node[] {
  let here: unknown = definition;
  for (const step of path) here = (here as Record<Step, unknown>)[step];
  return here as Node[];
}

function textOf(path: Step[]): string {
  return path.reduce<string>(
    (text, step) => (typeof step === "number" ? `${text}[${step}]` : text ? `${text}.${step}` : step),
    "",
  );
}
