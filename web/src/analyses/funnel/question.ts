import { frequentTypes } from "../../audiences/editor/values";
import type { Schemas } from "../../lib/api/client";
import { addDays } from "../../lib/format";
import { workspace } from "../../lib/workspace.svelte";
import { Reader, selectionText } from "../codec";
import { withinOf } from "../WithinPhrases.svelte";

export type Picture = Schemas["FunnelPicture"];
export type Step = Schemas["FunnelStep"];
export const FORMS = ["steps", "time"] as const;
export const MOST_STEPS = 10;
const DAYS = 90;

/** The steps the address names: the event it is about, and what follows; or the most frequent events. */
function stepsOf(reader: Reader): Step[] {
  const named = reader.selection("event") as Step | null;
  const then = reader.list("then") as Step[];
  const [most = "", second = most, third] = frequentTypes();
  if (!named && !then.length) return [most, second, ...(third ? [third] : [])].map((event) => ({ event }));
  const first = named ?? { event: most };
  const other = first.event === most ? second : most;
  return [first, ...(then.length ? then : [{ event: other }])].slice(0, MOST_STEPS);
}

/** What the address has to hold for them. */
export function stepsText([first, ...then]: Step[]): Record<"event" | "then" | "also", string | null> {
  return { event: first ? selectionText(first) : null, then: JSON.stringify(then), also: null };
}

/** A copy with a step at another place. What must not lie before the first step is let go of. */
export function moved(steps: Step[], from: number, to: number): Step[] {
  if (to < 0 || to >= steps.length || from === to) return steps;
  const rest = steps.filter((_, index) => index !== from);
  return [...rest.slice(0, to), steps[from]!, ...rest.slice(to)].map((step, index) =>
    index === 0 ? bare(step) : step,
  );
}

/** A step without what must not lie before it. */
export function bare(step: Step): Step {
  const copy = { ...step };
  delete copy.without;
  return copy;
}

/** What the address asks. */
export function read() {
  const reader = new Reader();
  return {
    steps: stepsOf(reader),
    within: reader.parsed("within", withinOf),
    visit: reader.oneOf("visit", ["people", "visits"] as const),
    from: reader.date("from") ?? addDays(workspace.asOf, 1 - DAYS),
    drawn: reader.oneOf("drawn", FORMS) ?? "steps",
    step: reader.oneOf("step", ["day", "month"] as const) ?? ("week" as const),
    by: reader.splits("by"),
    left: reader.left,
  };
}
