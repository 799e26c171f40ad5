import { address } from "./address.svelte";
import { addDays } from "./format";
import { workspace } from "./workspace.svelte";

export type Step = "day" | "week" | "month";
export const STEPS: Step[] = ["day", "week", "month"];
export const RANGES = [
  ["90", "last 90 days"],
  ["180", "last 180 days"],
  ["365", "last 365 days"],
  ["all", "all time"],
] as const;

/** The range of days looked at and the steps it is looked at in, as they stand in the address. */
class Range {
  get name(): string {
    return address.get("range") ?? "365";
  }

  get step(): Step {
    return STEPS.find((step) => step === address.get("step")) ?? "week";
  }

  /** What the same steps are compared with. */
  get compareWith(): "previous" | "year" | null {
    const named = address.get("behind");
    return named === "previous" || named === "year" ? named : null;
  }

  /** Where the days end before the as-of date, as questions take it. */
  get until(): { to?: string } {
    return this.to === workspace.asOf ? {} : { to: this.to };
  }

  /** The last day looked at. */
  get to(): string {
    const chosen = address.get("to");
    return chosen && chosen <= workspace.asOf && chosen >= this.from ? chosen : workspace.asOf;
  }

  get from(): string {
    const chosen = address.get("from");
    if (chosen && chosen <= workspace.asOf) return chosen;
    const oldest = workspace.info?.data?.oldest_day ?? workspace.asOf;
    const start = this.name === "all" ? oldest : addDays(workspace.asOf, 1 - (Number(this.name) || 365));
    const first = start < oldest ? oldest : start;
    return first > workspace.asOf ? workspace.asOf : first;
  }
}

export const range = new Range();
