import { keptAs } from "./base";
import { parsed } from "./shapes";

const MOST = 5;

/** What was chosen last in this browser, the latest first. */
export function recent(kind: "event" | "attribute"): string[] {
  const kept = parsed(localStorage.getItem(keptAs(`recent-${kind}`)) ?? "[]", Array.isArray) ?? [];
  return kept.filter((name) => typeof name === "string");
}

export function remember(kind: "event" | "attribute", name: string): void {
  const names = [name, ...recent(kind).filter((other) => other !== name)].slice(0, MOST);
  localStorage.setItem(keptAs(`recent-${kind}`), JSON.stringify(names));
}
