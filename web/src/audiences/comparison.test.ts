import { describe, expect, it } from "vitest";
import { csv } from "../lib/csv";
import { matching } from "./editor/Choice.svelte";
import { by } from "../analyses/SplitBy.svelte";
import { letter, read, write } from "./comparison.svelte";

describe("the comparison in the address", () => {
  it("keeps order and what is left out of comparing, and takes no more than six", () => {
    expect(read("3,5-,7")).toEqual([
      { id: 3, on: true },
      { id: 5, on: false },
      { id: 7, on: true },
    ]);
    expect(write(read("3,5-,7"))).toBe("3,5-,7");
    expect(read("1,2,3,4,5,6,7,8")).toHaveLength(6);
    expect(read("nonsense,-3,,0")).toEqual([]);
    expect(write([])).toBeNull();
    expect(letter(5)).toBe("F");
  });
});

describe("a split in the address", () => {
  it("becomes what the API takes, names with colons included", () => {
    expect(by("attribute:home:quarter")).toEqual({ attribute: "home:quarter" });
    expect(by("property:first:ride_ended:a:b")).toEqual({
      property: { take: "first", event: "ride_ended", of: "a:b" },
    });
    expect(by("state")).toEqual({ state: true });
    expect([by("grouping:3"), by("grouping:x")]).toEqual([{ grouping: 3 }, null]);
    expect(by("property:first")).toBeNull();
    expect(by(null)).toBeNull();
  });
});

describe("typing to complete", () => {
  const options = ["ride_ended", "trip_planned", "pass_bought"].map((value) => ({ value, text: value }));
  it("puts what begins so first, and forgives a slip", () => {
    expect(matching(options, "pass")[0]!.value).toBe("pass_bought");
    expect(matching(options, "rid ended")[0]!.value).toBe("ride_ended");
    expect(matching(options, "")).toEqual(options);
    expect(matching(options, "zzzzzz")).toEqual([]);
  });
});

describe("csv", () => {
  it("quotes what needs it and disarms formulas", () => {
    expect(csv([["a,b", 'say "x"', "=1+1", null, 3]])).toBe('"a,b","say ""x""",\'=1+1,,3\r\n');
  });
});
