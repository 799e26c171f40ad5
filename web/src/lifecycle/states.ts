import type { Schemas } from "../lib/api/client";

export type State = Schemas["State"];

/** From the liveliest up, in the order they lie in pictures. */
export const SEEN_STATES: State[] = ["new", "active", "dormant", "churned"];

/** As it is read: "never active". */
export function stateName(state: string): string {
  return state.replaceAll("_", " ");
}
