import type { Schemas } from "../lib/api/client";

type Page = Schemas["EventsPage"];
/** Events that stand together: those of a visit, or system messages in none. */
export type Group = { visit: Page["visits"][number] | null; rows: Page["rows"] };

/** A page of events, newest first, as its visits; system messages that came during one stand in it. */
export function visitsOf({ rows, visits }: Page): Group[] {
  const groups: Group[] = [];
  let between: Page["rows"] = [];
  const close = () => {
    if (between.length) groups.push({ visit: null, rows: between });
    between = [];
  };
  for (const row of rows) {
    const current = groups.at(-1);
    if (row.visit === null) between.push(row);
    else if (current?.visit?.number === row.visit) {
      current.rows.push(...between, row);
      between = [];
    } else {
      close();
      groups.push({ visit: visits.find(({ number }) => number === row.visit) ?? null, rows: [row] });
    }
  }
  close();
  return groups;
}
