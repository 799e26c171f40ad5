import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { workspace } from "../lib/workspace.svelte";
import { answerOf } from "../testing/answers";
import { meant } from "../testing/links";
import { last, longKept, serve } from "../testing/server";
import Activity from "./Activity.svelte";

const PATH = "/analyses/activity";
const trailing = (least: number) =>
  Object.fromEntries(
    ["1", "7", "28", "30", "total"].map((days, index) => [days, [least + index, 10 + index]]),
  );
const growth = { before: 8, now: 10, share: 0.25 };
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
    { finding: "10 people were active in the last 7 days." },
  );

beforeEach(() => {
  workspace.info = longKept;
});

describe("activity", () => {
  it("counts active people of trailing windows, and opens them as people who did any of the signs", async () => {
    serve({ [`POST ${PATH}`]: answer(7) });
    render(Activity);
    const table = within(await screen.findByRole("table", { name: "Active people" }));
    expect(last(PATH).body).toEqual({ as_of: "2026-10-31", from: "2025-11-01", step: "week" });
    expect(table.getByText("−25%")).toBeTruthy();
    expect(table.getByRole("row", { name: /the last 30 days/ }).textContent).toContain("–");
    expect(screen.getByText(/Devices are the visitor identifiers/)).toBeTruthy();
    expect(screen.queryByRole("link", { name: "9" })).toBeNull(); // conditions on the events can't be said so
    workspace.policies = [{ ...workspace.policies[0]!, activity: ["ride_ended", "pass_bought"] }];
    await waitFor(() => expect(table.getByRole("link", { name: "9" })).toBeTruthy());
    expect(meant(table.getByRole("link", { name: "9" }))).toEqual([
      { did: { events: ["ride_ended", "pass_bought"], count: { at_least: 1 }, window: { last_days: 7 } } },
    ]);
  });

  it("says nothing of devices where nobody comes by any, and opens the bars of days", async () => {
    serve({ [`POST ${PATH}`]: answer(0) });
    workspace.policies = [{ ...workspace.policies[0]!, activity: ["ride_ended"] }];
    render(Activity);
    const days = await screen.findByRole("link", { name: "4 people active on 2 of these days" });
    expect(meant(days)).toEqual([
      { did: { events: ["ride_ended"], count: { exactly: 2, of: "days" }, window: { last_days: 30 } } },
    ]);
    expect(screen.queryByText(/Devices/)).toBeNull();
    address.go("/base/activity?step=day&range=90");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ step: "day", from: "2026-08-03" }));
  });
});
