import type { Node } from "../audiences/definition";
import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it } from "vitest";
import { workspace } from "../lib/workspace.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { user } from "../testing/editing";
import { meant } from "../testing/links";
import { last, longKept, serve } from "../testing/server";
import Activity from "./Activity.svelte";

const PATH = "/analyses/activity";
const trailing = (least: number) =>
  Object.fromEntries(
    ["1", "7", "28", "30", "total"].map((days, index) => [days, [least + index, 10 + index]]),
  );
const growth = { before: 8, now: 10, share: 0.25 };
const weekly = { did: { events: ["ride_ended"], count: { at_least: 1 }, window: { last_days: 7 } } };
const twice: Node = {
  did: { event: "ride_ended", count: { exactly: 2, of: "days" }, window: { last_days: 30 } },
};
const tables = [
  tableOf(
    "now",
    ["days:days", "people:people", "before:count", "growth:growth"],
    { values: [7, 9, 12, -0.25], people: weekly },
    { values: [30, 10, 0, null] },
  ),
  tableOf(
    "weekdays",
    ["weekday:text", "mean:mean"],
    { values: ["Monday", null] },
    { values: ["Tuesday", 2.5] },
  ),
  tableOf("often", ["days:days", "people:people"], { values: [1, 6] }, { values: [2, 4], people: twice }),
];
const answer = (devices: number) =>
  answerOf(
    "activity",
    {
      ...{ from: "2026-10-19", to: "2026-10-31", step: "week", dates: ["2026-10-25", "2026-10-31"] },
      trailing: trailing(3),
      devices: Object.fromEntries(Object.keys(trailing(0)).map((days) => [days, [devices, devices]])),
      growth: {
        "1": growth,
        "7": { before: 12, now: 9, share: -0.25 },
        "28": growth,
        "30": { ...growth, share: null },
      },
      periods: [
        { from: "2026-10-19", to: "2026-10-25", complete: true, new: 4, again: 9 },
        { from: "2026-10-26", to: "2026-10-31", complete: false, new: 2, again: 5 },
      ],
      weekdays: Array.from({ length: 7 }, (_, day) => ({
        weekday: day + 1,
        mean: day ? day + 0.5 : null,
        days: 2,
      })),
      stickiness: { window: 30, people: 12, share: null, distribution: [6, 4, 2] },
    } as never,
    { finding: "10 people were active in the last 7 days.", tables },
  );

beforeEach(() => {
  workspace.info = longKept;
});

describe("activity", () => {
  it("counts active people of trailing windows, and opens them", async () => {
    serve({ [`POST ${PATH}`]: answer(7) });
    render(Activity);
    const table = within(await screen.findByRole("table", { name: "now" }));
    expect(last(PATH).body).toEqual({ as_of: "2026-10-31", from: "2025-11-01", step: "week" });
    expect(table.getByRole("row", { name: /7 days/ }).textContent).toContain("−25%");
    expect(table.getByRole("row", { name: /30 days/ }).textContent).toContain("–");
    expect(meant(table.getByRole("link", { name: "9" }))).toEqual([weekly]);
    await user.selectOptions(screen.getByLabelText("Interval"), "by day");
    await user.selectOptions(screen.getByLabelText("Range"), "90 days");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ step: "day", from: "2026-08-03" }));
  });

  it("opens the bars of days", async () => {
    serve({ [`POST ${PATH}`]: answer(0) });
    render(Activity);
    const days = await screen.findByRole("link", { name: "4 people active on 2 of 30 days" });
    expect(meant(days)).toEqual([twice]);
    expect(screen.queryByRole("link", { name: /active on 1 of these days/ })).toBeNull();
  });
});
