import { readFileSync } from "node:fs";
import Ajv2020 from "ajv/dist/2020";
import addFormats from "ajv-formats";
import type { AnalysisName, Answer } from "../lib/api/ask";
import type { Schemas } from "../lib/api/client";

const description = JSON.parse(readFileSync("../var/api.json", "utf8")) as object;
const ajv = new Ajv2020({ strict: false });
addFormats(ajv);
ajv.addSchema(description, "api");

/** Something the server answers, typed as it is, and checked against its schema. */
export function answered<N extends keyof Schemas>(schema: N, value: Schemas[N]): Schemas[N] {
  const valid = ajv.getSchema(`api#/components/schemas/${schema}`)!;
  if (!valid(value)) throw new Error(`${schema}: ${ajv.errorsText(valid.errors)}`);
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
    picture,
    ...more,
  } as unknown as Answer<N>;
  const pointer = `api#/paths/~1analyses~1${analysis}/post/responses/200/content/application~1json/schema`;
  const valid = ajv.getSchema(pointer)!;
  if (!valid(answer)) throw new Error(`${analysis}: ${ajv.errorsText(valid.errors)}`);
  return answer;
}

type Table = Schemas["AnalysisTable"];

/** A table of an answer. Each column is given as "key:kind" or "key:kind:of", and is labelled by its key. */
export function tableOf(
  key: string,
  columns: string[],
  ...rows: (Pick<Table["rows"][number], "values"> & Partial<Table["rows"][number]>)[]
): Table {
  return answered("AnalysisTable", {
    key,
    title: key,
    columns: columns.map((column) => {
      const [name, kind, of = null] = column.split(":") as [
        string,
        Table["columns"][number]["kind"],
        string?,
      ];
      return { key: name, label: name, kind, unit: null, of };
    }),
    rows: rows.map((row) => ({ people: null, cells: {}, ...row })),
  });
}
