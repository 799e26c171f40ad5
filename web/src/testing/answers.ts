import type { AnalysisName, Answer } from "../lib/api/ask";
import type { Schemas } from "../lib/api/client";
import { check, checkAnswer } from "./contract";

/** Something the server answers, typed as it is, and checked against its schema. */
export function answered<N extends keyof Schemas>(schema: N, value: Schemas[N]): Schemas[N] {
  check(value, schema, "components", "schemas", schema);
  return value;
}

/** What an analysis answers, typed as it is, and checked against the schema that the server answers by. */
export function answerOf<N extends AnalysisName>(
  analysis: N,
  picture: Answer<N>["picture"],
  more: Partial<Answer<N>> = {},
): Answer<N> {
  const answer = {
    analysis,
    as_of: "2026-10-31",
    received_by: null,
    ended: true,
    finding: "",
    caveats: [],
    tables: [],
    drawn: null,
    picture,
    ...more,
  } as unknown as Answer<N>;
  checkAnswer("POST", `/analyses/${analysis}`, answer);
  return answer;
}

type Table = Schemas["AnalysisTable"];

/** A table of an answer. Each column is given as "key:kind" or "key:kind:of", and is labelled by its key. */
export function tableOf(
  key: string,
  columns: string[],
  ...rows: (Pick<Table["rows"][number], "values"> & Partial<Table["rows"][number]>)[]
): Table {
  const all = columns.map((column) => {
    const [name, kind, of = null] = column.split(":") as [string, Table["columns"][number]["kind"], string?];
    return { key: name, label: name, kind, unit: null, of };
  });
  const numbers = all.slice(1).filter(({ kind }) => !["text", "date", "state", "flag"].includes(kind));
  return answered("AnalysisTable", {
    key,
    title: key,
    columns: all,
    figures: numbers.map(({ key: column, label }) => ({
      ...{ key: column, label },
      lines: [{ column, name: label }],
    })),
    rows: rows.map((row) => ({ people: null, cells: {}, ...row })),
  });
}
