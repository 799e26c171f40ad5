import type { Component } from "svelte";
import type { Node } from "../definition";
import Attribute, { condition as attribute } from "./Attribute.svelte";
import Campaign, { condition as campaign } from "./Campaign.svelte";
import Chance, { condition as chance } from "./Chance.svelte";
import Changed, { condition as changed } from "./Changed.svelte";
import type { Condition, PhraseProps } from "./condition";
import Did, { condition as did } from "./Did.svelte";
import ProfileType, { condition as profileType } from "./ProfileType.svelte";
import Lifecycle, { condition as lifecycle } from "./Lifecycle.svelte";
import Listed, { condition as listed } from "./Listed.svelte";
import Membership, { condition as membership } from "./Membership.svelte";
import Moment, { condition as moment } from "./Moment.svelte";
import Order, { condition as order } from "./Order.svelte";
import Reachable, { condition as reachable } from "./Reachable.svelte";
import Rhythm, { condition as rhythm } from "./Rhythm.svelte";
import Seen, { condition as seen } from "./Seen.svelte";
import Visit, { condition as visit } from "./Visit.svelte";
import Visited, { condition as visited } from "./Visited.svelte";

type Editor = Component<PhraseProps<never>>;

/** All kinds of conditions, in the order they are offered, with the editors of their phrases. */
export const CONDITIONS: (Condition & { editor: Editor })[] = [
  { ...attribute, editor: Attribute },
  { ...changed, editor: Changed },
  { ...profileType, editor: ProfileType },
  { ...seen, editor: Seen as Editor },
  { ...reachable, editor: Reachable },
  { ...membership, editor: Membership },
  { ...listed, editor: Listed },
  { ...did, editor: Did },
  { ...moment, editor: Moment },
  { ...rhythm, editor: Rhythm },
  { ...visit, editor: Visit },
  { ...visited, editor: Visited },
  { ...order, editor: Order },
  { ...campaign, editor: Campaign },
  { ...lifecycle, editor: Lifecycle },
  { ...chance, editor: Chance },
];

/** The kind of a condition; nothing for groups and negations. */
export function conditionOf(node: Node): (typeof CONDITIONS)[number] | undefined {
  return CONDITIONS.find(({ keys }) => keys.some((key) => key in node));
}

/** The paths of everything in a condition that says which events are meant. */
export function selections(node: Node): string[] {
  return conditionOf(node)?.selections?.(node) ?? [];
}

/** The opposite of a condition; a "not" around it is taken away. */
export function negated(node: Node): Node {
  return node.not ?? conditionOf(node)?.opposite?.(node) ?? { not: node };
}
