import type { Schemas } from "../lib/api/client";

export type State = Schemas["State"];

/** From the liveliest up, in the order they lie in pictures. */
export const SEEN_STATES: State[] = ["new", "active", "dormant", "churned"];

/** What a state means, in words, under the policy in force. */
export function meaning(state: State, policy: Schemas["Policy"]): string {
  switch (state) {
    case "new":
      return `first active less than ${policy.new_for} days ago`;
    case "active":
      return `active within the last ${policy.active_within} days`;
    case "dormant":
      return `quiet for ${policy.active_within} to ${policy.churned_after - 1} days`;
    case "churned":
      return `quiet for ${policy.churned_after} days or more`;
    default:
      return "known, but no activity yet";
  }
}
