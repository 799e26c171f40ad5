import { describe, expect, it } from "vitest";
import { csvOf, jsonLinesOf } from "../lib/downloads";
import { apart, band, fitting, orMore, shortened, way } from "./plot";

describe("drawing", () => {
  it("moves labels apart and keeps them above the bottom", () => {
    expect(apart([{ at: 50 }, { at: 10 }, { at: 12 }], 17, 60).map((label) => label.at)).toEqual([
      10, 27, 50,
    ]);
    expect(apart([{ at: 58 }, { at: 59 }], 17, 60).map((label) => label.at)).toEqual([43, 60]);
    // Those that have room stay where they are.
    expect(apart([{ at: 2 }, { at: 58 }, { at: 59 }], 17, 60).map((label) => label.at)).toEqual([2, 43, 60]);
  });

  it("leaves out names that would touch the one before", () => {
    const names = [0, 26, 52, 78, 200].map((at) => ({ at, text: `${at} days` }));
    expect(fitting(names).map(({ at }) => at)).toEqual([0, 52, 200]);
    expect(fitting([])).toEqual([]);
  });

  it("says “or more” in a sign where there is no room for the words", () => {
    expect([orMore("21× or more", 80), orMore("21× or more", 40), orMore("11–20×", 10)]).toEqual([
      "21× or more",
      "≥21×",
      "11–20×",
    ]);
  });

  it("breaks a line where a value is missing, and draws steps", () => {
    expect(way([[0, 1], null, [2, 3], [4, 5.04]])).toBe("M0,1ZM2,3L4,5");
    expect(
      way(
        [
          [0, 0],
          [2, 4],
        ],
        true,
      ),
    ).toBe("M0,0L2,0L2,4");
    expect(way([])).toBe("");
  });

  it("lays an area between two lines, broken where one of them is missing, along steps as well", () => {
    const high: [number, number][] = [0, 2, 4, 6, 8].map((x) => [x, 1]);
    const low = high.map(([x]) => [x, 5] as [number, number]);
    expect(band(low.with(2, null!), high)).toBe("M0,1L2,1L2,5L0,5ZM6,1L8,1L8,5L6,5Z");
    expect(band([low[0]!, [2, 6]], [high[0]!, [2, 3]], true)).toBe("M0,1L2,1L2,3L2,6L2,5L0,5Z");
    expect(band([null], [null], true)).toBe("");
  });

  it("shortens names to the room there is", () => {
    expect(shortened("Dormant commuters", 150)).toBe("Dormant co…");
    expect(shortened("Dormant commuters", 150, "4%")).toBe("Dormant commuters");
    expect(shortened("Riders", 150)).toBe("Riders");
  });
});

describe("tables to take along", () => {
  it("writes CSV and JSON Lines, with formulas put in quotes and missing values empty", () => {
    const rows = [
      { state: "=new", people: 3, share: null },
      { state: 'a "b", c', people: 1, share: 0.5 },
    ];
    expect(decodeURIComponent(csvOf(rows))).toBe(
      'data:text/csv;charset=utf-8,state,people,share\r\n\'=new,3,\r\n"a ""b"", c",1,0.5\r\n',
    );
    expect(decodeURIComponent(jsonLinesOf(rows)).split("\n").slice(1)).toEqual([
      '{"state":"a \\"b\\", c","people":1,"share":0.5}',
      "",
    ]);
  });
});
