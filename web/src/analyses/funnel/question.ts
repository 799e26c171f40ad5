import { frequentTypes } from "../../audiences/editor/values";
import type { Answer } from "../../lib/api/ask";
import type { Schemas } from "../../lib/api/client";
import { addDays } from "../../lib/format";
import { workspace } from "../../lib/workspace.svelte";
import { Reader, selectionText } from "../codec";
import { withinOf } from "../WithinPhrases.svelte";

export type Picture = Schemas["FunnelPicture"];
export type Line = Picture["rows"][number];
export type Step = Schemas["FunnelStep"];
type Condition = Schemas["Condition"];
export const FORMS = ["steps", "waits", "time"] as const;
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
  return settled([first, ...(then.length ? then : [{ event: other }])].slice(0, MOST_STEPS));
}

/** What the address has to hold for them. */
export function stepsText([first, ...then]: Step[]): Record<"event" | "then" | "also", string | null> {
  return { event: first ? selectionText(first) : null, then: JSON.stringify(then), also: null };
}

/** A copy with a step at another place. */
export function moved(steps: Step[], from: number, to: number): Step[] {
  if (to < 0 || to >= steps.length || from === to) return steps;
  const rest = steps.filter((_, index) => index !== from);
  return [...rest.slice(0, to), steps[from]!, ...rest.slice(to)];
}

/** A step without what must not lie before it. */
export function bare(step: Step): Step {
  const copy = { ...step };
  delete copy.without;
  return copy;
}

/** A step that may not be skipped. */
export function needed(step: Step): Step {
  const copy = { ...step };
  delete copy.optional;
  return copy;
}

/** Nothing lies before the first step, and neither it nor the last one can be skipped. */
export function settled(steps: Step[]): Step[] {
  return steps.map((step, index) => {
    const own = index === 0 || index === steps.length - 1 ? needed(step) : step;
    return index === 0 ? bare(own) : own;
  });
}

/** The condition of whoever got to a step, stopped there, or went on from one that may be skipped, which the table carries. */
export function openedBy(
  answer: Answer<"funnel">,
  at: number,
  what: "people" | "lost" | "on",
  line = 0,
): Condition | null {
  return answer.tables[0]?.rows[at]?.cells[`${what}_${line}`] ?? null;
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
    link: reader.whole("link", 1, MOST_STEPS - 1),
    step: reader.oneOf("step", ["day", "month"] as const) ?? ("week" as const),
    by: reader.splits("by"),
    left: reader.left,
  };
}
