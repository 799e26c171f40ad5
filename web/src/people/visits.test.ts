import { describe, expect, it } from "vitest";
import { visitsOf } from "./visits";

const row = (id: number, visit: number | null) => ({
  ...{ id, visit, type: "ride_ended", source: "app", properties: {}, day: "2026-05-03" },
  ...{ occurred_at: `2026-05-03T10:00:${60 - id}Z`, received_at: "2026-05-03T10:00:00Z" },
});
const visit = (number: number) => ({ number, first: "2026-05-03T10:00:00Z", count: 2, seconds: 60 });

describe("the events of a page", () => {
  it("stand by visit; a system message stands in the visit during which it came, or by itself", () => {
    const rows = [row(1, null), row(2, 7), row(3, null), row(4, 7), row(5, null), row(6, null), row(7, 6)];
    const found = visitsOf({ per_page: 50, total: 7, rows, visits: [visit(7), visit(6)] });
    expect(found.map((group) => [group.visit?.number ?? null, group.rows.map(({ id }) => id)])).toEqual([
      [null, [1]],
      [7, [2, 3, 4]],
      [null, [5, 6]],
      [6, [7]],
    ]);
    expect(visitsOf({ per_page: 50, total: 0, rows: [], visits: [] })).toEqual([]);
  });
});
