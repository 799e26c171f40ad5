import { address } from "../lib/address.svelte";
import type { AnalysisName } from "../lib/api/ask";
import type { Schemas } from "../lib/api/client";
import { lastAsked } from "../lib/asked.svelte";
import { addDays, daysBetween } from "../lib/format";
import { isDate } from "../lib/parameters";
import { workspace } from "../lib/workspace.svelte";

export type Saved = Schemas["SavedAnalysis"];
export type Question = Schemas["SavedQuestion"];
const RELATIVE = /^-\d+$/;
/** Dates that a question is about; those it is asked as of stand in every address. */
const DATES = ["from", "to", "between", "and"];
const AS_OF = ["as_of", "received_by"];
/** Where the analyses are asked that have no place of their own under Analyses. */
const ELSEWHERE: Record<string, string> = {
  states: "/",
  activity: "/lifecycle/activity",
  thresholds: "/lifecycle/thresholds",
  revisions: "/lifecycle/revisions",
};
/** In the address: which saved analysis is open. */
export const OPEN = "saved";

/** What the address asks, to be kept: with its dates as they are, or as days before the as-of date. */
export function asked(moving: boolean): Question {
  const found = [...address.query].filter(([name, text]) => name !== OPEN && text !== "");
  if (!moving) return { ...Object.fromEntries(found), as_of: workspace.asOf };
  const kept = found.filter(([name]) => !AS_OF.includes(name));
  return Object.fromEntries(
    kept.map(([name, text]) =>
      DATES.includes(name) && isDate(text) ? [name, `-${daysBetween(text, workspace.asOf)}`] : [name, text],
    ),
  );
}

/** The question on screen as the analysis takes it, with its dates as they are, or as days before the as-of date. */
export function asks(analysis: string, moving: boolean): Record<string, unknown> | null {
  const text = lastAsked[analysis as AnalysisName];
  if (!text) return null;
  const own = JSON.parse(text) as Record<string, unknown>;
  if (!moving) return own;
  const kept = Object.entries(own).filter(([name]) => !AS_OF.includes(name));
  return Object.fromEntries(
    kept.map(([name, value]) =>
      DATES.includes(name) && typeof value === "string" && isDate(value)
        ? [name, `-${daysBetween(value, workspace.asOf)}`]
        : [name, value],
    ),
  );
}

/** Whether the dates of a question move along with the as-of date. */
export function moves(question: Question): boolean {
  return !question.as_of;
}

/** Where a question is asked, of the dates there are now. */
export function linkTo(analysis: string, question: Question, open: number | null = null): string {
  const texts = Object.entries(question).map(([name, text]) => [
    name,
    RELATIVE.test(text) && DATES.includes(name) ? addDays(workspace.asOf, Number(text)) : text,
  ]);
  const query = new URLSearchParams(Object.fromEntries(texts) as Record<string, string>);
  if (open !== null) query.set(OPEN, String(open));
  return `${ELSEWHERE[analysis] ?? `/analyses/${analysis}`}?${query}`;
}
