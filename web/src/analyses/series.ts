import type { Selection } from "../audiences/definition";
import { frequentTypes } from "../audiences/editor/values";
import { selectionText, type Reader } from "./codec";

/** Events beside each other, at most. */
export const MOST_SERIES = 6;

/** The events asked about: those the address names, or the most frequent ones. */
export function readSeries(reader: Reader): Selection[] {
  const first = reader.selection("event") ?? { event: frequentTypes()[0] ?? "" };
  return [first, ...reader.list("also").slice(0, MOST_SERIES - 1)];
}

/** What the address has to hold for them. */
export function seriesText(series: Selection[]): Record<"event" | "also", string | null> {
  const [first, ...also] = series;
  return {
    event: first ? selectionText(first) : null,
    also: also.length ? JSON.stringify(also) : null,
  };
}

/** Whether there is any event to ask about. */
export function asksSomething([first]: Selection[]): boolean {
  return Boolean(first?.event || first?.events || first?.any_event);
}
