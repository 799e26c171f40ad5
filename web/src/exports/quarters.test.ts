import { describe, expect, it } from "vitest";
import { spans } from "./quarters";

const named = (today: string, taken: { first: string; last: string }[] = []) =>
  spans(today, taken).map(({ first, last }) => `${first} ${last}`);

describe("when a standing holdout can be", () => {
  it("offers what is left of this quarter from tomorrow on, and the two after it", () => {
    expect(named("2026-11-28")).toEqual([
      "2026-11-29 2026-12-31",
      "2027-01-01 2027-03-31",
      "2027-04-01 2027-06-30",
    ]);
    expect(named("2026-03-31")).toEqual(["2026-04-01 2026-06-30", "2026-07-01 2026-09-30"]);
  });

  it("leaves out less than a week, and what others are in", () => {
    expect(named("2026-09-24")[0]).toBe("2026-10-01 2026-12-31");
    expect(named("2026-09-23")[0]).toBe("2026-09-24 2026-09-30");
    const taken = [{ first: "2026-10-05", last: "2027-01-01" }];
    expect(named("2026-11-28", taken)).toEqual(["2027-04-01 2027-06-30"]);
  });
});
