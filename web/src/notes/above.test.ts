import { describe, expect, it } from "vitest";
import { above } from "./above";
import type { Mark } from "./notes.svelte";

const note = (text: string): Mark => ({ date: "2026-10-01", text, kind: "note", note: null });

describe("notes above a picture", () => {
  it("stand above those after them that they would reach, before their place where the picture ends, and cut short", () => {
    const marked = [
      [note("a price that is higher")],
      [note("an outage")],
      [{ ...note("exported"), kind: "export" as const }],
      [note("x".repeat(60)), note("more")],
      [note("the end")],
    ];
    const placed = above(marked, [0, 60, 200, 220, 890], 900);
    expect(placed.map(({ place, row, turned }) => [place, row, turned])).toEqual([
      [0, 1, false],
      [1, 0, false],
      [3, 0, false],
      [4, 0, true],
    ]);
    expect(placed[2]).toMatchObject({ short: `${"x".repeat(39)}…`, text: `${"x".repeat(60)}; more` });
  });
});
