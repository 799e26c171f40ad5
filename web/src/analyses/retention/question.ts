import { frequentTypes } from "../../audiences/editor/values";
import type { Schemas } from "../../lib/api/client";
import { Reader, rising } from "../codec";
import { readSeries } from "../series";

export type Picture = Schemas["RetentionPicture"];
export type Counted = Picture["counted"];
type Step = Picture["step"];
const MOST_EDGES = 41;
export const FORMS = ["curve", "time"] as const;

/** When a return counts, in the words of the sentence. */
export function countedWords(step: Step): Record<Counted, string> {
  return {
    in: `in each ${step} after`,
    or_later: `in each ${step} or later`,
    and_before: `in each ${step} and in the one before`,
    every: `in every ${step} until then`,
    by: `at least once by each ${step}`,
    ranges: `in custom ${step} ranges`,
  };
}

/** Where ranges of periods begin, the last number ending them: "0,1,4,8". Null where they do not rise. */
export const edgesOf = (text: string) =>
  rising(text, 0, MOST_EDGES)?.length === 1 ? null : rising(text, 0, MOST_EDGES);

export function rangesOf(edges: number[]): [number, number][] {
  return edges.slice(0, -1).map((from, index) => [from, edges[index + 1]! - 1]);
}

/** What the address asks. Null for what it does not say. */
export function read() {
  const reader = new Reader();
  const start = readSeries(reader)[0]!;
  const other = frequentTypes().find((name) => name !== start.event) ?? start.event;
  return {
    start,
    back: reader.selection("return") ?? (other ? { event: other } : start),
    starts: reader.oneOf("starts", ["each"] as const) ?? ("first" as const),
    elapsed: reader.oneOf("elapsed", ["1"] as const) === "1",
    counted:
      reader.oneOf("counted", ["or_later", "and_before", "every", "by", "ranges"] as const) ??
      ("in" as const),
    edges: reader.parsed("edges", edgesOf) ?? [0, 1, 4, 8],
    drawn: reader.oneOf("drawn", FORMS) ?? "curve",
    at: reader.whole("at", 0, 1000) ?? 1,
    cells: reader.oneOf("shown", ["people"] as const) ?? ("shares" as const),
    by: reader.splits("by"),
    left: reader.left,
  };
}
