import { Reader } from "../codec";

export const DAYS = 28;
export const RANGE = 180;
const MOST = 365;
const START = ["first", "date"] as const;

/** What the address asks: where day 0 lies and what is measured. Null for what it does not say. */
export function read() {
  const reader = new Reader();
  return {
    around: reader.oneOf("around", START) === "date",
    first: reader.selection("first"),
    from: reader.date("from"),
    to: reader.date("to"),
    date: reader.date("date"),
    audience: reader.whole("audience", 1, Number.MAX_SAFE_INTEGER),
    event: reader.selection("event"),
    property: reader.text("of"),
    before: reader.whole("before", 1, MOST) ?? DAYS,
    after: reader.whole("after", 1, MOST) ?? DAYS,
    left: reader.left,
  };
}
