import { describe, expect, it } from "vitest";
import { conditionAt, placeSaid } from "./places";

describe("where something is wrong", () => {
  it.each([
    ["all[1].did.where[0].property", "Condition 2"],
    ["all[0].any[2].not.attribute.name", "Condition 1.3"],
    ["definition.all[0].order.steps[1].event", "Condition 1, step 2"],
    ["all[2].visit.all[1].event", "Condition 3"],
    ["columns[0].take", "Column 1"],
    ["rules.columns[4].as", "Column 5"],
    ["activity[0]", "Activity 1"],
    ["new_for", ""],
    ["settings.batch_size", ""],
    ["Weekly letter", "Weekly letter"],
    ["", ""],
  ])("%s is said as %s", (place, said) => expect(placeSaid(place)).toBe(said));

  it("is found in the sentence by the condition it lies in", () => {
    expect(conditionAt("all[1].did.where[0].property")).toBe("all[1]");
    expect(conditionAt("all[0].any[2].not.attribute.name")).toBe("all[0].any[2]");
    expect(conditionAt("all[2].visit.all[1].event")).toBe("all[2]");
    expect([conditionAt("as_of"), conditionAt("")]).toEqual([null, null]);
  });
});
