import type { Deed, Node, Selection } from "../definition";
import { pieceAt, withoutPiece, withPiece } from "./editing";
import { namesOf } from "./values";

/**
 * What can be done to what happened in a visit: more of it, less of it, and how often.
 *
 * @param path where it stands, such as "visit.all"
 * @param least how many things have to be left
 */
export function deedActions(node: Node, path: string, next: Selection, least: number) {
  const deeds = pieceAt<Deed[]>(node, path) ?? [];
  const more = { text: "Add event in the visit", node: withPiece(node, path, [...deeds, next]) };
  const often = deeds.flatMap((deed, index) =>
    deed.count || deed.measure
      ? []
      : {
          text: `Set how often ${namesOf(deed)}`,
          node: withPiece(node, `${path}[${index}]`, { ...deed, count: { at_least: 2 } }),
        },
  );
  const fewer = deeds.map((deed, index) => ({
    text: `Remove ${namesOf(deed)}`,
    node: withoutPiece(node, deeds.length > 1 ? `${path}[${index}]` : path),
  }));
  return [more, ...often, ...(deeds.length > least ? fewer : [])];
}
