import { render, screen } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import LinePlot from "./LinePlot.svelte";

const lines = (...values: (number | null)[][]) =>
  values.map((list) => ({ name: "…", values: list, colour: "var(--ink)" }));

function drawn(...values: (number | null)[][]) {
  const { container } = render(LinePlot, {
    lines: lines(...values),
    xs: values[0]!.map((_, index) => index),
    marks: [{ at: 0, text: "now" }],
    format: (value: number) => value.toFixed(1),
    label: "A picture",
  });
  const ends = [...container.querySelectorAll("text[fill]")];
  return ends.map((end) => [end.textContent!.trim(), Number(end.getAttribute("y"))] as const);
}

describe("lines", () => {
  it("may have the same name, as audiences whose names are still to come", () => {
    const ends = drawn([1, 2], [3, 4], [5, 4]);
    expect(ends.map(([text]) => text).sort()).toEqual(["… 2.0", "… 4.0", "… 4.0"]);
    const heights = ends.map(([, y]) => y).sort((a, b) => a - b);
    expect(Math.min(heights[1]! - heights[0]!, heights[2]! - heights[1]!)).toBeGreaterThanOrEqual(16);
  });

  it("end where their last value is, and have no name without one", () => {
    expect(drawn([1, 2, null], [null, null, null]).map(([text]) => text)).toEqual(["… 2.0"]);
    expect(screen.getByText("now")).toBeTruthy();
  });
});
