import { render, screen, waitFor, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { user } from "../testing/editing";
import { last, serve } from "../testing/server";
import Revisions from "./Revisions.svelte";

const PATH = "/analyses/revisions";
const none = { new: 0, active: 0, dormant: 0, churned: 0 };
const week = (date: string, before: number, now: number, late: number) => ({
  ...{
    date,
    moved: Math.abs(now - before) / before,
    most_moved: "active" as const,
    hint: "Mostly late events.",
  },
  before: { new: 5, active: before, dormant: 20, churned: 9 },
  now: { new: 5, active: now, dormant: 20 + before - now, churned: 9 },
  causes: {
    late: { ...none, active: late },
    merged: { ...none, active: now - before - late },
    catalogue: none,
    rule_set: none,
  },
});
const answer = (rows: ReturnType<typeof week>[]) =>
  answerOf(
    "revisions",
    {
      first_received: "2026-10-01",
      rows,
      sources: [
        { source: "app", events: 900, late: 90, median_days: 2.5 },
        { source: "till", events: 0, late: 0, median_days: null },
      ],
      changes: [{ at: "2026-10-20T08:00:00Z", what: "rule set “Riders” changed" }],
    },
    { finding: "Counts have moved by up to 10%.", tables: rows.length ? tables : [] },
  );
const columns = ["date:date", "then:count", "now:people", "change:change", "late:change"];
const tables = [
  tableOf(
    "weeks_active",
    columns,
    { values: ["2026-10-18", 100, 110, 10, 12] },
    { values: ["2026-10-25", 200, 200, 0, 0] },
  ),
  tableOf("weeks_dormant", columns, { values: ["2026-10-18", 20, 10, -10, 0] }),
  tableOf(
    "sources",
    ["source:text", "median_days:days"],
    { values: ["till", null] },
    { values: ["app", 2.5] },
  ),
];
const weeks = [week("2026-10-18", 100, 110, 12), week("2026-10-25", 200, 200, 0)];

describe("counts with the data received by then and now", () => {
  it("are set beside each other with causes that make up the difference, and open both groups of people", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    render(Revisions);
    const rows = within(await screen.findByRole("table", { name: "weeks_active" })).getAllByRole("row");
    expect(last(PATH).body).toEqual({ as_of: "2026-10-31", from: "2026-05-02" });
    expect([...rows[2]!.children].map((cell) => cell.textContent!.replace(/\s+/g, " ").trim())).toEqual([
      ...["18 Oct 2026 above 5%", "100", "110", "+10", "+12"],
    ]);
    expect(screen.queryByRole("table", { name: "weeks_dormant" })).toBeNull();
    expect([...rows[2]!.querySelectorAll("a")].map((link) => link.getAttribute("href"))).toEqual([
      "/people?state=active&as_of=2026-10-18&received_by=2026-10-18",
      "/people?state=active&as_of=2026-10-18",
    ]);
    expect(screen.getByRole("status").textContent).toContain("active revised by 10%, from 100 to 110");
    const sources = within(screen.getByRole("table", { name: "sources" }));
    expect(sources.getByRole("row", { name: /till/ }).textContent).toContain("–");
  });

  it("raise an alarm above the share that is chosen only", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    render(Revisions);
    await user.clear(await screen.findByLabelText("Alert above"));
    await user.type(screen.getByLabelText("Alert above"), "12{Tab}");
    await waitFor(() => expect(screen.queryByRole("status")).toBeNull());
    expect(address.get("alert")).toBe("12");
    address.go("/lifecycle/revisions?alert=-5&state=sad");
    expect((await screen.findByRole("status")).textContent).toContain("revised by 10%");
  });

  it("can be of another state, and say where there is no week yet", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    const { unmount } = render(Revisions);
    await screen.findByRole("table", { name: "weeks_active" });
    address.go("/lifecycle/revisions?state=dormant");
    expect((await screen.findByRole("table", { name: "weeks_dormant" })).textContent).toContain("−10");
    await user.selectOptions(screen.getByLabelText("State"), "active people");
    expect(address.get("state")).toBeNull();
    unmount();
    serve({ [`POST ${PATH}`]: answer([]) });
    render(Revisions);
    expect(
      await screen.findByText(/No complete week of data yet \(first received 1 Oct 2026\)/),
    ).toBeTruthy();
  });
});
