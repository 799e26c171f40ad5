import { describe, expect, it } from "vitest";
import { recompared } from "./comparisons";
import type { Comparison, FilterTree, Definition, Node } from "../definition";
import {
  alternatives,
  added,
  indented,
  moved,
  nodeAt,
  outdented,
  removed,
  replaced,
  rooted,
  steps,
  transferred,
  withoutPiece,
  withPiece,
} from "./editing";
import { conditionOf, negated, selections } from "../conditions";

const plan: Node = { attribute: { name: "plan", compare: "is_set" } };
const age: Node = { attribute: { name: "age", compare: "is_set" } };
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

  it("adds, moves and turns conditions round", () => {
    expect(added(nested, "all[1].any", plan).all[1]!.any).toHaveLength(3);
    expect(moved(nested, "all[1]", -1).all[1]).toEqual(plan);
    expect(moved(nested, "all[0]", -1)).toEqual(nested);
    expect(negated(ride)).toEqual({ did: { event: "ride_ended", count: { exactly: 0 } } });
    expect(negated(negated(plan))).toEqual(plan);
    expect(rooted(plan)).toEqual({ all: [plan] });
  });

  it("moves a condition into, out of and between groups, cleaning up what is left empty", () => {
    expect(transferred(nested, "all[0]", "all[1].any", 1)).toEqual({
      all: [{ any: [age, plan, { not: ride }] }],
    });
    expect(transferred(nested, "all[1].any[0]", "all", 0)).toEqual({
      all: [age, plan, { any: [{ not: ride }] }],
    });
    expect(transferred({ all: [plan, { any: [age] }] }, "all[1].any[0]", "all", 0)).toEqual({
      all: [age, plan],
    });
    expect(transferred(nested, "all[1]", "all[1].any", 0)).toEqual(nested);
    expect(transferred(nested, "all[9]", "all", 0)).toEqual(nested);
    expect(indented({ all: [{ any: [plan] }, age] }, "all[1]")).toEqual({ all: [{ any: [plan, age] }] });
    expect(indented({ all: [plan, age] }, "all[1]")).toEqual({ all: [plan, { any: [age] }] });
    expect(outdented({ all: [{ any: [plan, age] }, ride] }, "all[0].any[0]")).toEqual({
      all: [{ any: [age] }, plan, ride],
    });
    expect(outdented(nested, "all[0]")).toEqual(nested);
  });

  it("changes and leaves out pieces of a condition by their path", () => {
    const where: FilterTree[] = [
      { property: "km", compare: "greater", value: 5 },
      { any: [{ property: "dock", compare: "is_set" }] },
    ];
    const far = { did: { event: "ride_ended", where } };
    expect(withPiece(far, "did.where[0].value", 7).did!.where![0]!.value).toBe(7);
    expect(withoutPiece(far, "did.where[0]").did!.where).toEqual([where[1]]);
    expect(withoutPiece(far, "did.where[1].any[0]").did!.where).toEqual([where[0]]);
    const order = {
      order: { steps: [{ event: "a" }, { event: "b" }], then_not: { event: "c", within: { days: 1 } } },
    };
    expect(selections(order)).toEqual(["order.steps[0]", "order.steps[1]", "order.then_not"]);
    expect(withoutPiece(order, "order.then_not").order!.then_not).toBeUndefined();
    expect(withoutPiece(order, "order.steps[0]").order!.steps).toEqual([{ event: "b" }]);
  });

  it("puts a value into the shape the comparison needs", () => {
    const is: Comparison = { compare: "is", value: "x", ignore_case: true };
    expect(recompared(is, "one_of", "").value).toEqual(["x"]);
    expect(recompared({ compare: "one_of", value: ["a", "b"] }, "is", "").value).toBe("a");
    expect(recompared({ compare: "is", value: 3 }, "between", 0).value).toEqual([3, 3]);
    expect(recompared(is, "is_set", "")).toEqual({ compare: "is_set" });
    expect(recompared({ compare: "is_set" }, "is", 4)).toEqual({ compare: "is", value: 4 });
  });
});

describe("conditions chosen together", () => {
  const one = { profile_type: { is: ["visitor" as const] } };
  const two = { reachable: { by: ["email" as const] } };
  const three = { lifecycle: { is: ["new" as const] } };

  it("become alternatives in the place of the first of them, in the order in which they stand", () => {
    const definition = { all: [one, two, three] };
    expect(alternatives(definition, ["all[2]", "all[0]"])).toEqual({ all: [{ any: [one, three] }, two] });
    const nested = { all: [one, { any: [two, three, one] }] };
    expect(alternatives(nested, ["all[1].any[1]", "all[1].any[2]"])).toEqual({
      all: [one, { any: [two, { any: [three, one] }] }],
    });
  });
});

describe("steps one after the other", () => {
  it("begin with the first of a kind, or with any", () => {
    const order = { steps: [{ event: "ride_ended" }, { event: "pass_bought" }] };
    const made = (node: Node) => conditionOf(node)!.actions!(node, { event: "pass_bought" });
    const first = made({ order }).find(({ text }) => text === "… starting with the first occurrence")!.node;
    expect(first).toEqual({ order: { steps: [{ event: "ride_ended", first: true }, order.steps[1]] } });
    expect(made(first).find(({ text }) => text === "… starting with any occurrence")!.node).toEqual({
      order,
    });
  });
});

describe("what happened in a visit", () => {
  const next = { event: "pass_bought" };
  const actions = (node: Node) =>
    Object.fromEntries(conditionOf(node)!.actions!(node, next).map(({ text, node: made }) => [text, made]));

  it("is added, counted and left out, but never all of it where nothing else is asked", () => {
    const rides = { event: "ride_ended" };
    const visit = (all: object[]) => ({ visit: { all, window: { ever: true } } }) as unknown as Node;
    const one = actions(visit([rides]));
    expect(Object.keys(one)).toEqual(["Add event in the visit", "Set how often ride ended"]);
    expect(one["Set how often ride ended"]).toEqual(visit([{ ...rides, count: { at_least: 2 } }]));
    expect(actions(visit([rides, next]))["Remove ride ended"]).toEqual(visit([next]));
  });

  it("may be all there is to leave out of visits that are counted, as may be what they began and ended with", () => {
    const visited = (more: object) => ({ visited: { count: { at_least: 1 }, ...more } }) as unknown as Node;
    expect(actions(visited({ doing: [next] }))["Remove pass bought"]).toEqual(visited({}));
    expect(actions(visited({}))["Add event in the visit"]).toEqual(visited({ doing: [next] }));
    expect(actions(visited({}))["Set the event the visit ended with"]).toEqual(visited({ ended: next }));
    expect(actions(visited({ ended: next }))["Remove the event the visit ended with"]).toEqual(visited({}));
  });
});
