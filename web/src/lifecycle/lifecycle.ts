import type { Schemas } from "../lib/api/client";
import { month as monthName } from "../lib/format";
import type { Node } from "../audiences/definition";
import { SEEN_STATES, type State } from "./states";
import { workspace } from "../lib/workspace.svelte";

export type MovementBetween = Schemas["MovementBetween"];
export const ALL_STATES: State[] = ["never_active", ...SEEN_STATES];

/** The named parts of a movement: states before, states after, and what they mean. */
export const PARTS = {
  joined: {
    before: ["never_active"],
    after: ["new", "active"],
    means: "never active before, new or active after",
  },
  reactivated: {
    before: ["dormant", "churned"],
    after: ["new", "active"],
    means: "dormant or churned before, new or active after",
  },
  retained: { before: ["new", "active"], after: ["new", "active"], means: "new or active on both dates" },
  lapsed: {
    before: ["new", "active"],
    after: ["dormant", "churned"],
    means: "new or active before, dormant or churned after",
  },
  newly_churned: { before: ["dormant"], after: ["churned"], means: "dormant before, churned after" },
  came_and_lapsed: {
    before: ["never_active"],
    after: ["dormant", "churned"],
    means: "came and went in between",
  },
} as const satisfies Record<string, { before: State[]; after: State[]; means: string }>;
export type Part = keyof typeof PARTS;

/** People who were in some states on one day. People who were never active include those who were not known yet. */
function were(states: readonly State[], on: string): Node {
  if (!states.includes("never_active"))
    return { lifecycle: { is: [...states], on, ...workspace.ruleSetCondition } };
  return {
    not: {
      lifecycle: {
        is: ALL_STATES.filter((state) => !states.includes(state)),
        on,
        ...workspace.ruleSetCondition,
      },
    },
  };
}

/** The definition of who went from some states at the end of one day to others at the end of another. */
export function moved(before: readonly State[], from: string, after: readonly State[], to: string): Node {
  return { all: [were(before, from), were(after, to)] };
}

/** Where dates are one after the other, those that begin a month (or a year), thinned to what fits. */
export function dateMarks(dates: string[], most = 14): { at: number; text: string }[] {
  const marks = dates
    .map((date, index) => ({
      index,
      month: date.slice(0, 7),
      first: dates[index - 1]?.slice(0, 7) !== date.slice(0, 7),
    }))
    .filter((mark, position) => mark.first && (position > 0 || dates[0]!.endsWith("-01")));
  const years = marks.length > most * 6;
  const step = Math.ceil(marks.length / most);
  const kept = years
    ? marks
        .filter((mark) => mark.month.endsWith("-01"))
        .filter((mark) => Number(mark.month.slice(0, 4)) % Math.ceil(marks.length / 12 / most) === 0)
    : marks.filter((mark) => (Number(mark.month.slice(5)) - 1) % step === 0);
  return kept.map(({ index, month }, position) => {
    const year = month.slice(0, 4);
    if (years) return { at: index, text: year };
    return {
      at: index,
      text: position === 0 || month.endsWith("-01") ? `${monthName(month)} ${year}` : monthName(month),
    };
  });
}

/** The number of the first period that is incomplete; null where all are complete. */
export function firstIncomplete(periods: { complete: boolean }[]): number | null {
  const index = periods.findIndex((period) => !period.complete);
  return index < 0 ? null : index;
}
