import { describe, expect, it } from "vitest";
import { csvOf, jsonLinesOf } from "./downloads";
import { apart, broken, stairs } from "./plot";

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
