import type { Schemas } from "../../lib/api/client";
import { Reader } from "../codec";
import { readSeries } from "../series";

export type Picture = Schemas["ChangePicture"];
export type Reason = Picture["reasons"][number];

/** What the address asks. */
export function read() {
  const reader = new Reader();
  return {
    of: readSeries(reader)[0]!,
    measure: reader.oneOf("measure", ["times"] as const) ?? ("people" as const),
    date: reader.date("date"),
    against: reader.oneOf("behind", ["year"] as const) ?? ("previous" as const),
    left: reader.left,
  };
}
