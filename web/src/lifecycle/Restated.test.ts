import { render, screen, waitFor, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf } from "../testing/answers";
import { user } from "../testing/editing";
import { last, serve } from "../testing/server";
import Restated from "./Restated.svelte";

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
    policy: none,
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
      changes: [{ at: "2026-10-20T08:00:00Z", what: "policy “Riders” changed" }],
    },
    { finding: "Counts have moved by up to 10%." },
  );
const weeks = [week("2026-10-18", 100, 110, 12), week("2026-10-25", 200, 200, 0)];

describe("counts as known then and now", () => {
  it("are set beside each other with causes that make up the difference, and open both groups of people", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    render(Restated);
    const rows = within(await screen.findByTestId("restated")).getAllByRole("row");
    expect(last(PATH).body).toEqual({ as_of: "2026-10-31", from: "2026-05-02" });
    expect([...rows[2]!.children].map((cell) => cell.textContent!.trim())).toEqual([
      ...["18 Oct 2026", "100", "110", "+10!", "+12", "−2", "0", "0"],
    ]);
    expect([...rows[2]!.querySelectorAll("a")].map((link) => link.getAttribute("href"))).toEqual([
      "/people?state=active&as_of=2026-10-18&known_on=2026-10-18",
      "/people?state=active&as_of=2026-10-18",
    ]);
    expect(screen.getByRole("status").textContent).toContain("active moved by 10%: 100 then, 110 now");
    const sources = within(screen.getByRole("table", { name: "Late events by source" }));
    expect(sources.getByRole("row", { name: /till/ }).textContent).toContain("–");
  });

  it("raise an alarm above the share that is chosen only", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    render(Restated);
    await user.clear(await screen.findByLabelText(/alert above/));
    await user.type(screen.getByLabelText(/alert above/), "12{Tab}");
    await waitFor(() => expect(screen.queryByRole("status")).toBeNull());
    expect(address.get("alert")).toBe("12");
    address.go("/base/restated?alert=-5&state=sad");
    expect((await screen.findByRole("status")).textContent).toContain("moved by 10%");
  });

  it("can be of another state, and say where there is no week yet", async () => {
    serve({ [`POST ${PATH}`]: answer(weeks) });
    const { unmount } = render(Restated);
    await screen.findByTestId("restated");
    address.go("/base/restated?state=dormant");
    await waitFor(() =>
      expect(within(screen.getByTestId("restated")).getAllByRole("row")[2]!.textContent).toContain("−10"),
    );
    unmount();
    serve({ [`POST ${PATH}`]: answer([]) });
    render(Restated);
    expect(
      await screen.findByText(/no whole week since anything was first received \(1 Oct 2026\)/),
    ).toBeTruthy();
  });
});
