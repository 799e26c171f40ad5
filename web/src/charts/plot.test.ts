import { describe, expect, it } from "vitest";
import { csvOf, jsonLinesOf } from "../lib/downloads";
import { apart, band, broken, shortened, stairs } from "./plot";

describe("drawing", () => {
  it("moves labels apart and keeps them above the bottom", () => {
    expect(apart([{ at: 50 }, { at: 10 }, { at: 12 }], 17, 60).map((label) => label.at)).toEqual([
      10, 27, 50,
    ]);
    expect(apart([{ at: 58 }, { at: 59 }], 17, 60).map((label) => label.at)).toEqual([43, 60]);
  });

  it("breaks a line where a value is missing, and draws steps", () => {
    expect(broken([[0, 1], null, [2, 3], [4, 5]])).toBe("M0.0,1.0M2.0,3.0L4.0,5.0");
    expect(
      stairs([
        [0, 0],
        [2, 4],
      ]),
    ).toBe("M0.0,0.0H2.0V4.0");
  });

  it("lays an area between two lines, broken where one of them is missing, along steps as well", () => {
    const high: [number, number][] = [0, 2, 4, 6, 8].map((x) => [x, 1]);
    const low = high.map(([x]) => [x, 5] as [number, number]);
    expect(band(low.with(2, null!), high, false)).toBe(
      "M0.0,1.0L2.0,1.0L2.0,5.0L0.0,5.0ZM6.0,1.0L8.0,1.0L8.0,5.0L6.0,5.0Z",
    );
    expect(band(low.slice(0, 2), high.slice(0, 2), true)).toBe("M0.0,1.0H2.0V1.0L2.0,5.0V5.0H0.0Z");
    expect(band([null], [null], true)).toBe("");
  });

  it("shortens names to the room there is", () => {
    expect(shortened("Dormant commuters", 150)).toBe("Dormant com…");
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
