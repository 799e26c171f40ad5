import { isCondition } from "../../lib/shapes";
import type { Definition, Node } from "../definition";

/** Definitions taken apart and put together. Places and paths are those the server's sentence gives; nothing is changed in place. */
type Key = string | number;

/** Any definition with an `all` at its root, as the editor wants it; an error where it holds something else. */
export function rooted(json: unknown): Definition {
  if (!isCondition(json)) throw new TypeError("this is not a condition");
  return json.all ? { all: json.all } : { all: [json] };
}

/** "all[1].any[0]" → ["all", 1, "any", 0] */
export function steps(place: string): Key[] {
  return [...place.matchAll(/([a-z_]+)|\[(\d+)\]/g)].map((match) => match[1] ?? Number(match[2]));
}

export function nodeAt(definition: Definition, place: string): Node | undefined {
  let here: unknown = definition;
  for (const step of steps(place)) here = (here as Record<Key, unknown> | undefined)?.[step];
  return here as Node | undefined;
}

/** A copy with the node at a place replaced. */
export function replaced(definition: Definition, place: string, node: Node): Definition {
  return put(definition, place, node);
}

/** A piece of a condition, such as "did.where[0]". */
export function pieceAt<T>(node: Node, path: string): T | undefined {
  let here: unknown = node;
  for (const step of steps(path)) here = (here as Record<Key, unknown> | undefined)?.[step];
  return here as T | undefined;
}

/** A copy of a condition with a piece of it replaced. */
export function withPiece(node: Node, path: string, piece: unknown): Node {
  return put(node, path, piece);
}

/** A copy of a condition without a condition, step or event at a path; groups of conditions left empty by it go too. */
export function withoutPiece(node: Node, path: string): Node {
  const keys = steps(path);
  const copy = structuredClone(node);
  const last = keys.at(-1)!;
  const parent = keys.slice(0, -1);
  if (typeof last !== "number") {
    delete (pieceAt(copy, textOf(parent)) as Record<Key, unknown>)[last];
    return copy;
  }
  const list = listAt(copy as Definition, parent);
  list.splice(last, 1);
  const inGroup = typeof parent.at(-2) === "number";
  return list.length === 0 && inGroup ? withoutPiece(node, textOf(parent.slice(0, -1))) : copy;
}

function put<T>(whole: T, place: string, piece: unknown): T {
  const path = steps(place);
  const copy = structuredClone(whole);
  let here: unknown = copy;
  for (const step of path.slice(0, -1)) here = (here as Record<Key, unknown>)[step];
  (here as Record<Key, unknown>)[path.at(-1)!] = piece;
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

/** A copy with a condition moved among its neighbours; the same where it cannot move. */
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

/**
 * A copy with the condition at a place taken out and put into a group at an index (as it was counted before). A group cannot
 * go into itself.
 */
export function transferred(definition: Definition, place: string, group: string, index: number): Definition {
  if (group === place || group.startsWith(`${place}.`)) return definition;
  const taken = nodeAt(definition, place);
  const into = taken && (nodeAt(definition, group) as Node[] | undefined);
  if (!taken || !into) return definition;

  // The old place is found again by a mark, since putting the condition in may have moved it.
  const mark = { not: { all: [] }, moved: true } as Node;
  const marked = replaced(definition, place, mark);
  listAt(marked, steps(group)).splice(index, 0, structuredClone(taken));
  return removed(
    marked,
    placeOf(marked, (node) => "moved" in node)!,
  );
}

/** A copy with a condition put inside the group before it, or, where there is none, into alternatives of its own. */
export function indented(definition: Definition, place: string): Definition {
  const path = steps(place);
  const index = path.at(-1);
  if (typeof index !== "number") return definition;
  const before = index > 0 ? textOf([...path.slice(0, -1), index - 1]) : null;
  const neighbour = before ? nodeAt(definition, before) : undefined;
  const kind = neighbour?.any ? "any" : neighbour?.all ? "all" : null;
  if (before && kind) return transferred(definition, place, `${before}.${kind}`, neighbour![kind]!.length);
  return replaced(definition, place, { any: [nodeAt(definition, place)!] });
}

/** A copy with several conditions of one list put together as alternatives, in the place of the first of them. */
export function alternatives(definition: Definition, places: string[]): Definition {
  const indices = places.map((place) => steps(place).at(-1) as number).toSorted((one, other) => one - other);
  const list = steps(places[0]!).slice(0, -1);
  const copy = structuredClone(definition);
  const nodes = listAt(copy, list);
  const any = indices.map((index) => nodes[index]!);
  const rest = nodes.map((node, index) => (index === indices[0] ? { any } : node));
  const kept = rest.filter((_, index) => index === indices[0] || !indices.includes(index));
  nodes.splice(0, nodes.length, ...kept);
  return copy;
}

/** A copy with a condition taken out of its group and put behind it. */
export function outdented(definition: Definition, place: string): Definition {
  const path = steps(place);
  let depth = path.length - 2;
  while (depth > 0 && typeof path[depth - 1] !== "number") depth -= 1;
  if (depth <= 0) return definition;
  const index = path[depth - 1] as number;
  return transferred(definition, place, textOf(path.slice(0, depth - 1)), index + 1);
}

/** The place of the first node that fits. */
export function placeOf(node: Node | Definition, fits: (node: Node) => boolean, place = ""): string | null {
  if (place && fits(node as Node)) return place;
  const prefix = place ? `${place}.` : "";
  for (const kind of ["all", "any"] as const) {
    const list = (node as Node)[kind];
    for (const [index, child] of (list ?? []).entries()) {
      const found = placeOf(child, fits, `${prefix}${kind}[${index}]`);
      if (found) return found;
    }
  }
  const inner = (node as Node).not;
  return inner ? placeOf(inner, fits, `${prefix}not`) : null;
}

function listAt(definition: Definition, path: Key[]): Node[] {
  let here: unknown = definition;
  for (const step of path) here = (here as Record<Key, unknown>)[step];
  return here as Node[];
}

function textOf(path: Key[]): string {
  return path.reduce<string>(
    (text, step) => (typeof step === "number" ? `${text}[${step}]` : text ? `${text}.${step}` : step),
    "",
  );
}
