import { describe, expect, it } from "vitest";
import { catalogue } from "../testing/server";
import { defaultName, firstColumns, fresh, offered, same, stepSaid, taken, writtenOf } from "./exports";

describe("exports", () => {
  it("names columns as the core does", () => {
    expect(defaultName({ take: "attribute:plan" })).toBe("plan");
    expect(defaultName({ take: "sum", event: "pass_bought", property: "price", days: 90 })).toBe(
      "sum_price_pass_bought_90_days",
    );
    expect(taken({ take: "last", event: "ride_ended" })).toBe("date of last ride ended");
    expect(taken({ take: "inactive_days" })).toBe("days inactive");
  });

  it("begins with identifiers and state, and knows whether anything has changed", () => {
    const available = ["identifier:customer", "profile_type", "state", "inactive_days", "attribute:plan"];
    expect(firstColumns(available).map((column) => column.take)).toEqual([
      "identifier:customer",
      "state",
      "inactive_days",
    ]);
    const settings = fresh({ id: 3, name: "Sleepy" }, available);
    const saved = { ...settings, id: 1, audience: "Sleepy", newest_version: 2, last_run: null } as never;
    expect(same(writtenOf(saved), settings)).toBe(true);
    expect(same({ ...settings, version: 1 }, settings)).toBe(false);
  });

  it("offers no states where there are no events to make them of", () => {
    const columns = ["identifier:email", "profile_type", "state", "inactive_days", "attribute:plan"];
    expect(offered({ ...catalogue, columns })).toEqual(columns);
    expect(offered({ ...catalogue, columns, event_types: [] })).toEqual([
      "identifier:email",
      "profile_type",
      "attribute:plan",
    ]);
    expect(offered(null)).toEqual([]);
  });

  it("says what a step means by the channel", () => {
    expect(stepSaid("no_address", "push")).toBe("no push consent");
    expect(stepSaid("no_address", "email")).toBe("no address");
  });
});
