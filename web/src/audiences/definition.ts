import type { Schemas } from "../lib/api/client";
import type { State } from "../lifecycle/states";

/** An audience definition as JSON; its rules and wording are the server's, here it is only taken apart and put together. */
export type Value = string | number | boolean;
export type Comparison = { compare: string; value?: Value | Value[]; ignore_case?: boolean };
export type Filter = Comparison & { property: string };
export type Condition = Partial<Filter> & { all?: Condition[]; any?: Condition[] };
export type Unit = "events" | "days" | "visits";
export type Count = {
  at_least?: number;
  at_most?: number;
  exactly?: number;
  between?: [number, number];
  of?: Unit;
};
export type Measure = Comparison & { of: string; take: string };
export type Window = {
  ever?: true;
  last_days?: number;
  last_hours?: number;
  first_days?: number;
  from?: string;
  to?: string;
  weekdays?: number[];
  hours?: [number, number];
};
export type Within = { minutes?: number; hours?: number; days?: number };
export type Selection = { event?: string; events?: string[]; any_event?: true; where?: Condition[] };
export type Did = Selection & { count?: Count; measure?: Measure; window?: Window };
export type Attribute = Comparison & { name: string; ever?: boolean };
export type Moment = Selection & { window?: Window };
export type Rhythm = Selection & { times?: number; each: "week" | "month"; last: number; in?: number };
export type Step = Selection & {
  within?: Within;
  next?: boolean;
  same_visit?: boolean;
  other_day?: boolean;
};
export type Order = { steps: Step[]; window?: Window; then_not?: Selection & { within: Within } };
export type Changed = { name: string; from?: Comparison; to?: Comparison; window?: Window };
export type Lifecycle = {
  is: State[];
  on?: string;
  for_at_least_days?: number;
  entered_last_days?: number;
  from?: State[];
  returned?: boolean;
  policy?: { id: number; version?: number } | { rules: Record<string, unknown> };
};
export type Bounds = { at_least?: number; less_than?: number };
export type Campaign = {
  was?: "sent" | "opened" | "clicked" | "ignored" | "unsubscribed" | "returned";
  run?: Bounds & { of: "current" | "longest" | "mean" };
  share?: Bounds;
  name?: string;
  channel?: string;
  last?: number;
  from?: State[];
  within_days?: number;
  window?: Window;
};
export type Node = {
  all?: Node[];
  any?: Node[];
  not?: Node;
  attribute?: Attribute;
  changed?: Changed;
  kind?: { is: string[] };
  reachable?: { by: string[] };
  campaign?: Campaign;
  did?: Did;
  first?: Moment;
  last?: Moment;
  rhythm?: Rhythm;
  visit?: { all: Selection[]; window?: Window };
  order?: Order;
  lifecycle?: Lifecycle;
  audience?: { id: number; on?: string };
};
export type Definition = { all: Node[] };
export type FieldType = Schemas["Field"]["type"];
