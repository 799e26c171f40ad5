const CONDITION = /\b(?:all|any)\[(\d+)\]/g;
const NUMBERED: [RegExp, string][] = [
  [/\bcolumns\[(\d+)\]/, "Column"],
  [/\bactivity\[(\d+)\]/, "Activity"],
  [/\bsteps\[(\d+)\]/, "Step"],
  [/\blists\[(\d+)\]/, "List"],
];
const PATH = /^[a-z_]+(?:[.[][a-z_\d\]]+)*$/;

/**
 * Where something is wrong, in words instead of as a path in JSON: "Condition 2.1", "Condition 1, step 2", "Column 3";
 * or nothing for a single setting, which its fault names. What is no path, such as the name of an export, stays.
 */
export function placeSaid(place: string): string {
  const said: string[] = [];
  // Within a condition "all" stands for properties and visits, which have no number of their own.
  const [outside] = place.split(/\.(?:did|first|last|visit|order|rhythm)\b/);
  const numbers = [...outside!.matchAll(CONDITION)].map((match) => Number(match[1]) + 1);
  if (numbers.length) said.push(`condition ${numbers.join(".")}`);
  for (const [pattern, name] of NUMBERED) {
    const found = place.match(pattern);
    if (found) said.push(`${name.toLowerCase()} ${Number(found[1]) + 1}`);
  }
  const text = said.join(", ") || (PATH.test(place) ? "" : place);
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** The place of the condition in a definition that a fault is in: "all[1].any[0]"; null where it is in none. */
export function conditionAt(place: string): string | null {
  const [found] = place.match(/^(?:(?:all|any)\[\d+\](?:\.not)?\.?)+/) ?? [];
  return found ? found.replace(/(\.not)?\.?$/, "") : null;
}
