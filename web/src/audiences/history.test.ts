import { describe, expect, it } from "vitest";
import { Steps } from "./history.svelte";

describe("steps", () => {
  it("goes back and forth, and forgets what was undone once something else is done", () => {
    const steps = new Steps<string>();
    steps.note("a", 0);
    steps.note("b", 5000);
    expect(steps.undo(() => "c")).toBe("b");
    expect(steps.undo(() => "b")).toBe("a");
    expect(steps.undo(() => "a")).toBeNull();
    expect(steps.redo(() => "a")).toBe("b");
    steps.note("b", 9000);
    expect(steps.redoable).toBe(false);
    expect(steps.undo(() => "x")).toBe("b");
  });

  it("takes quick changes for one, unless something else was done in between", () => {
    const steps = new Steps<string>();
    steps.note("", 0);
    steps.note("1", 100);
    steps.note("12", 200);
    expect(steps.undo(() => "123")).toBe("");
    steps.note("", 1000);
    steps.part();
    steps.note("1", 1100);
    expect(steps.undo(() => "12")).toBe("1");
  });
});
