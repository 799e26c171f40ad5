import type { Schemas } from "../lib/api/client";

/** An audience definition as JSON; its rules and wording are the server's, here it is only taken apart and put together. */
export type Node = Schemas["Condition"];
export type Definition = { all: Node[] };

/** What stands beneath a key of a condition. */
type Beneath<Key extends keyof Node> = NonNullable<Node[Key]>;

export type Value = Schemas["Scalar"];
export type Comparison = Schemas["Comparison"];
/** A comparison of a property, or several of these joined. */
export type FilterTree = Schemas["Filter"];
/** A single comparison of a property. */
export type Filter = Comparison & { property: string };
/** A comparison of what an attribute of the person was when the event happened. */
export type StandingFilter = Comparison & { attribute: string };
/** A comparison of how far the person had got by the event. */
export type SoFarFilter = Comparison & { so_far: NonNullable<FilterTree["so_far"]> };
/** A single condition on an event. */
export type EventCondition = Filter | StandingFilter | SoFarFilter;
export type Selection = Schemas["Selection"];
/** A selection, and how often or how much. */
export type Deed = Schemas["Deed"];
export type Count = Schemas["Count"];
export type Unit = NonNullable<Count["of"]>;
export type Measure = Schemas["Measure"];
export type Window = Schemas["Window"];
export type Within = Schemas["Within"];

export type Attribute = Beneath<"attribute">;
export type Changed = Beneath<"changed">;
export type Did = Beneath<"did">;
export type Moment = Beneath<"first">;
export type Rhythm = Beneath<"rhythm">;
export type Visited = Beneath<"visited">;
export type Order = Beneath<"order">;
export type Step = Order["steps"][number];
export type Lifecycle = Beneath<"lifecycle">;
export type Campaign = Beneath<"campaign">;
export type Chance = Beneath<"chance">;
export type Bounds = NonNullable<Campaign["share"]>;

export type FieldType = Schemas["Field"]["type"];
