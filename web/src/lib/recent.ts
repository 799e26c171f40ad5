import { keptAs } from "./base";

const MOST = 5;

/** What was chosen last in this browser, the latest first. */
export function recent(kind: "event" | "attribute"): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keptAs(`recent-${kind}`)) ?? "[]");
    return Array.isArray(kept) ? kept.filter((name) => typeof name === "string") : [];
  } catch {
    return [];
  }
}

export function remember(kind: "event" | "attribute", name: string): void {
  const names = [name, ...recent(kind).filter((other) => other !== name)].slice(0, MOST);
  localStorage.setItem(keptAs(`recent-${kind}`), JSON.stringify(names));
}
