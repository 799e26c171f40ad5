import { describe, expect, it } from "vitest";
import {
  added,
  moved,
  negated,
  nodeAt,
  removed,
  replaced,
  rooted,
  steps,
  type Definition,
} from "./definition";

const plan = { attribute: { name: "plan", compare: "is_set" } };
const age = { attribute: { name: "age", compare: "is_set" } };
const ride = { did: { event: "ride_ended" } };
const nested: Definition = { all: [plan, { any: [age, { not: ride }] }] };

describe("definition", () => {
  it("finds and replaces nodes by their place", () => {
    expect(steps("all[1].any[0]")).toEqual(["all", 1, "any", 0]);
    expect(nodeAt(nested, "all[1].any[1].not")).toEqual(ride);
    expect(nodeAt(replaced(nested, "all[1].any[0]", ride), "all[1].any[0]")).toEqual(ride);
    expect(nodeAt(nested, "all[1].any[0]")).toEqual(age);
  });

  it("removes a node together with what it leaves empty", () => {
    expect(removed(nested, "all[0]")).toEqual({ all: [nested.all[1]] });
    expect(removed(nested, "all[1].any[1].not")).toEqual({ all: [plan, { any: [age] }] });
    expect(removed({ all: [plan, { any: [age] }] }, "all[1].any[0]")).toEqual({ all: [plan] });
    expect(removed({ all: [plan] }, "all[0]")).toEqual({ all: [] });
  });

  it("adds, moves and turns clauses round", () => {
    expect(added(nested, "all[1].any", plan).all[1]!.any).toHaveLength(3);
    expect(moved(nested, "all[1]", -1).all[1]).toEqual(plan);
    expect(moved(nested, "all[0]", -1)).toEqual(nested);
    expect(negated(ride)).toEqual({ did: { event: "ride_ended", count: { exactly: 0 } } });
    expect(negated(negated(plan))).toEqual(plan);
    expect(rooted(plan)).toEqual({ all: [plan] });
  });
});
