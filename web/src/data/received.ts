import { eventName } from "../lib/names";

/** What is received besides events, by its reserved type. */
export const FACTS: Record<string, string> = {
  "estrel.attributes": "attributes changed",
  "estrel.consent": "consent changed",
  "estrel.link": "identifiers linked",
};

export function receivedName(type: string): string {
  return FACTS[type] ?? eventName(type);
}
