import type { Schemas } from "../lib/api/client";
import { day, days, duration, growth, number, percent, points, rate, ratio, signed } from "../lib/format";
import { stateName } from "../lifecycle/states";

type Table = Schemas["AnalysisTable"];
export type Kind = Table["columns"][number]["kind"];
export type Value = Table["rows"][number]["values"][number];

/** A value of a table as it is written, by the kind of its column. */
export function said(value: Value | undefined, kind: Kind): string {
  if (value === null || value === undefined) return "–";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (kind === "date") return day(String(value));
  if (typeof value === "string") return kind === "state" ? stateName(value) : value;
  if (kind === "share") return percent(value);
  if (kind === "growth") return growth(value);
  if (kind === "change") return signed(value);
  if (kind === "days") return days(value);
  if (kind === "duration") return duration(value);
  if (kind === "points") return `${points(value)} pp`;
  if (kind === "ratio") return ratio(value);
  if (kind === "mean") return rate(value);
  return number(value).replace("-", "−");
}

/** What can be drawn of the tables of an answer, with the words for each. */
export function drawable(tables: Table[]): { table: string; figure: string; words: string }[] {
  return tables
    .filter(({ rows }) => rows.length > 0)
    .flatMap(({ key, title, figures }) =>
      figures.map((figure) => ({
        table: key,
        figure: figure.key,
        words: figures.length > 1 ? `${title}: ${figure.label}` : title,
      })),
    );
}
