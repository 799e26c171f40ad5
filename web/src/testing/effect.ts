import type { Answer } from "../lib/api/ask";

/** One of the two groups. */
export const group = (people: number, some: number, mean: number) => ({ people, some, mean });
const band = (mean: number) => ({ mean, low: mean - 0.05, high: mean + 0.05 });

/** A run after which more of those exported came back. */
export const effect: Answer<"export-effect">["picture"] = {
  ...{
    outcome: "came back",
    needed: null,
    plan: false,
    young: 0,
    cut: null,
    known_before: "the days inactive",
  },
  ...{
    total: { estimate: 160, low: 96, high: 208 },
    adjusted: { estimate: 0.19, low: 0.13, high: 0.25, less: 0.2 },
  },
  curve: [0, 1].map((day) => ({ day, exported: band(0.1 + day / 5), held: band(0.1) })),
  within: [],
  ...{ share: true, from: "2026-10-01", to: "2026-10-14", complete: true, p_value: 0.00001, size: 0.02 },
  groups: [group(800, 240, 0.3), group(90, 9, 0.1)],
  difference: { estimate: 0.2, low: 0.12, high: 0.26 },
  relative: { estimate: 2, low: 0.6, high: 4.6 },
};
