import { parsed } from "../lib/shapes";
import { attributeName, eventName, propertyName } from "../lib/names";
import type { Schemas } from "../lib/api/client";
import { bytes, list, number } from "../lib/format";

export type Rules = Schemas["ExportRules"];
export type Column = Schemas["ExportColumn"];
export type Step = Schemas["Step"];
export type Waterfall = Schemas["Waterfall"];

/** What is written of an export, saved or not. */
export type Written = {
  name: string;
  audience_id: number;
  version: number | null;
  destination_id: number | null;
  rules: Rules;
};

/** The steps that exclude people, in the order in which they are looked at. */
export const EXCLUDED: Step[] = [
  "no_address",
  "invalid_address",
  "consent_withdrawn",
  "messaged",
  "listed",
  "repeated",
  "standing_holdout",
  "holdout",
];

export const FIGURES: [string, string][] = [
  ["last", "date of last"],
  ["first", "date of first"],
  ["count", "number of"],
  ["sum", "sum of"],
];

/** Chances that can be columns, within so many days unless others are written. */
export const CHANCES = { come_back: "reactivation probability", lapse: "lapse probability" } as const;
const WITHIN = 30;

/** A column of a chance. */
export function chance(of: keyof typeof CHANCES): Column {
  return { take: "chance", of, days: WITHIN };
}

const FACTS: Record<string, string> = {
  address: "email address or phone number",
  profile_type: "profile type",
  state: "state",
  reactivated: "recently reactivated",
  inactive_days: "days inactive",
  first_day: "first active",
  last_day: "last active",
};

const STEPS: Record<Step, string> = {
  no_address: "no address",
  invalid_address: "invalid address",
  consent_withdrawn: "consent withdrawn",
  messaged: "messaged too recently",
  listed: "on a suppression list",
  repeated: "duplicate address",
  standing_holdout: "global holdout",
  holdout: "holdout",
  exported: "exported",
};

/** The step that a text names. */
export function stepNamed(text: string | null): Step | null {
  return text !== null && text in STEPS ? (text as Step) : null;
}

export function stepSaid(step: Step, channel: string | null | undefined): string {
  if (channel !== "push") return STEPS[step];
  return step === "no_address" ? "no push consent" : STEPS[step];
}

/** What a column takes, in words. */
export function taken(column: Column): string {
  if (column.of) return `${column.days}-day ${CHANCES[column.of]}`;
  const figure = FIGURES.find(([key]) => key === column.take)?.[1];
  if (!figure) return FACTS[column.take] ?? takenName(column.take);
  const days = column.days ? ` in the last ${column.days} days` : "";
  const of = column.property ? `${propertyName(column.property, column.event)} of ` : "";
  return `${figure} ${of}${column.event ? eventName(column.event) : "…"}${days}`;
}

/** An attribute or a kind of identifier. */
export function takenName(take: string): string {
  const [kind, name = take] = /^(identifier|attribute):(.*)$/.exec(take)?.slice(1) ?? [];
  return kind === "attribute" ? attributeName(name) : name;
}

/** What a column is called in the file where nothing else is said; as the core has it. */
export function defaultName(column: Column): string {
  if (column.of) return `chance_to_${column.of}_within_${column.days}_days`;
  if (!FIGURES.some(([key]) => key === column.take))
    return column.take.replace(/^(identifier|attribute):/, "");
  return [column.take, column.property, column.event, column.days ? `${column.days}_days` : null]
    .filter(Boolean)
    .join("_");
}

/** The columns a new export begins with: who it is, where to, and the state. */
export function firstColumns(available: string[]): Column[] {
  return available
    .filter((column) => /^identifier:|^state$|^inactive_days$/.test(column))
    .map((take) => ({ take }));
}

/** The columns that can be exported: without any events there are no states. */
export function offered(catalogue: Schemas["Catalogue"] | null): string[] {
  const states = catalogue?.event_types.length ? [] : ["state", "inactive_days"];
  return (catalogue?.columns ?? []).filter((column) => !states.includes(column));
}

/** An export nobody has written yet, for an audience. */
export function fresh(audience: { id: number; name: string }, available: string[]): Written {
  return {
    name: audience.name,
    audience_id: audience.id,
    version: null,
    destination_id: null,
    rules: {
      columns: firstColumns(available),
      channel: null,
      messaged: null,
      lists: [],
      holdout: null,
      mode: "whole",
      file: {
        format: "csv",
        separator: "comma",
        encoding: "utf-8",
        neutralise: true,
        gzip: false,
        digests: false,
      },
      guard: 0.5,
      schedule: null,
    },
  };
}

export function writtenOf(saved: Schemas["Export"]): Written {
  const { name, audience_id, version, destination_id, rules } = saved;
  return { name, audience_id, version, destination_id, rules };
}

/** A draft of an export, and when what it changes was saved. */
export type Drafted = Written & { basis?: string };

/** An export as it stands in an address; null where that is broken. */
export function drafted(text: string): Drafted | null {
  return parsed(text, (json): json is Drafted => {
    const settings = json as Partial<Drafted> | null;
    return typeof settings?.audience_id === "number" && Array.isArray(settings.rules?.columns);
  });
}

/** Whether two exports say the same. */
export function same(one: Written, other: Written): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}

/** Evidence that a person was messaged: "message received and an Estrel export". */
export function messagedBy(rule: NonNullable<Rules["messaged"]>): string {
  const words = [...rule.events.map(eventName), ...(rule.runs ? ["an Estrel export"] : [])];
  return words.length ? list(words) : "nothing yet";
}

/** How a run went, in a few words. */
export function outcomeOf(run: Schemas["Run"]): string {
  switch (run.state) {
    case "done":
      return run.people?.entered === undefined
        ? `${number(run.row_count!)} people, ${bytes(run.bytes!)}`
        : `${number(run.people.entered)} entered, ${number(run.people.left ?? 0)} left`;
    case "failed":
      return run.error ?? "failed";
    case "waiting":
      return run.waits_because ?? "waiting for approval";
    case "running":
      return run.cancel_requested ? "cancelling…" : "running…";
    default:
      return run.state === "queued" ? "queued…" : run.state;
  }
}
