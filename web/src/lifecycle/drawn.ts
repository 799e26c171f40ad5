import { address } from "../lib/address.svelte";
import type { State } from "./states";

/** From the bottom of the picture up: the liveliest lie where their height is read most easily. */
export const LAYERS: State[] = ["active", "new", "dormant", "churned", "never_active"];
const USUALLY_WITHOUT = "never_active";
const NONE = "none";

/** The states the picture of states shows, as the address says. */
export function drawn(): State[] {
  const without = (address.get("without") ?? USUALLY_WITHOUT).split(",");
  const left = LAYERS.filter((state) => !without.includes(state));
  return left.length ? left : LAYERS;
}

/** What the address has to hold under "without" once a state has been switched; the last one stays. */
export function switched(state: State): string | null {
  const before = drawn();
  const after = before.includes(state) ? before.filter((one) => one !== state) : [...before, state];
  if (after.length === 0) return address.get("without");
  const without = LAYERS.filter((one) => !after.includes(one)).join(",") || NONE;
  return without === USUALLY_WITHOUT ? null : without;
}

/** Whether layers are as high as there are people, or as the share they have of those shown. */
export function drawnAs(): "counts" | "shares" {
  return address.get("drawn") === "shares" ? "shares" : "counts";
}
