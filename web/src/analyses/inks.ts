import { comparison } from "../audiences/comparison.svelte";

const INKS = 6;

/** The colour of a line: that of its audience, or of its place among the others. */
export function colourOf({ group }: { group: { id: number | null } }, index: number): string {
  const place = group.id === null ? index : comparison.position(group.id);
  return `var(--comparison-${Math.max(0, place) % INKS})`;
}
