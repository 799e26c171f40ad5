import type { Comparison, FieldType, Value } from "../definition";

/** How values are compared: the comparisons there are, in words, and the shape of the value each one needs. */
const EITHER: [string, string][] = [
  ["is_set", "is set"],
  ["is_not_set", "is not set"],
];
const DATES: [string, string][] = [
  ["before", "is before"],
  ["after", "is after"],
  ["between", "is between"],
  ["is", "is on"],
  ["is_not", "is not on"],
  ...EITHER,
];
const NUMBERS: [string, string][] = [
  ["is", "is"],
  ["is_not", "is not"],
  ["greater", "is more than"],
  ["at_least", "is at least"],
  ["less", "is less than"],
  ["at_most", "is at most"],
  ["between", "is between"],
];
/** The comparisons a measure that is a number allows. */
export const MEASURED = NUMBERS;
/** The comparisons a type allows, in words. */
export const COMPARISONS: Record<FieldType, [string, string][]> = {
  text: [
    ["is", "is"],
    ["is_not", "is not"],
    ["one_of", "is one of"],
    ["none_of", "is none of"],
    ["contains", "contains"],
    ["does_not_contain", "does not contain"],
    ["starts_with", "starts with"],
    ["ends_with", "ends with"],
    ...EITHER,
  ],
  number: [...NUMBERS, ["one_of", "is one of"], ["none_of", "is none of"], ...EITHER],
  boolean: [["is", "is"], ["is_not", "is not"], ...EITHER],
  date: DATES,
  time: DATES,
  list: [["contains", "contains"], ["does_not_contain", "does not contain"], ...EITHER],
};

export function needsValue(compare: string): boolean {
  return compare !== "is_set" && compare !== "is_not_set";
}

/** "one" value, a "list" of them, or a "range": what a comparison compares with. */
export function shape(compare: string): "none" | "one" | "list" | "range" {
  if (!needsValue(compare)) return "none";
  if (compare === "between") return "range";
  return compare === "one_of" || compare === "none_of" ? "list" : "one";
}

/** A comparison with another operator, its value put into the shape that one needs. */
export function recompared<T extends Comparison>(comparison: T, compare: string, fallback: Value): T {
  const values = [comparison.value ?? fallback].flat() as Value[];
  const first = values[0] ?? fallback;
  const value = {
    none: undefined,
    one: first,
    list: values,
    range: [first, values[1] ?? first],
  }[shape(compare)];
  const next = { ...comparison, compare, value };
  if (value === undefined) {
    delete next.value;
    delete next.ignore_case;
  }
  return next;
}
