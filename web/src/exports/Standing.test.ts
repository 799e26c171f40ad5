import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import type { Schemas } from "../lib/api/client";
import { session } from "../lib/session.svelte";
import { answerOf } from "../testing/answers";
import { effect } from "../testing/effect";
import { last, sent, serve, signedIn } from "../testing/server";
import Standing from "./Standing.svelte";

const EFFECT = "/analyses/export-effect";
const over = { id: 1, share: 0.05, first_day: "2026-07-01", last_day: "2026-09-30" };
const now = { id: 2, share: 0.1, first_day: "2026-10-01", last_day: "2026-12-31" };
const coming = { id: 3, share: 0.05, first_day: "2027-01-01", last_day: "2027-03-31" };

const usual = { people: 11_000, some: 6_600, mean: 0.6 };
const size = answerOf(
  "holdout-size",
  {
    usual,
    share: true,
    from: "2026-10-01",
    days: 32,
    smallest: 0.05,
    needed: 60_000,
    size: 0.02,
    runs: null,
  },
  { finding: "A holdout of 5% can show 5 points." },
);

async function shown(holdouts: Schemas["StandingHoldout"][]) {
  serve({
    "GET /standing-holdouts": { today: "2026-11-28", holdouts },
    "POST /standing-holdouts": coming,
    "POST /standing-holdouts/2/end": now,
    "DELETE /standing-holdouts/3": { deleted: true },
    "POST /analyses/holdout-size": size,
    [`POST ${EFFECT}`]: answerOf("export-effect", effect, { finding: "Higher." }),
  });
  render(Standing);
  await screen.findByText(/No global holdouts yet|Members and dates are fixed/);
  return userEvent.setup();
}

describe("standing holdouts", () => {
  it("begins one of a share and a quarter, and says before what it can show", async () => {
    const user = await shown([]);
    expect((await screen.findByTestId("standing-shows")).textContent).toContain("can show 5 points");
    expect(last("/analyses/holdout-size").body).toMatchObject({
      ...{ share: 0.05, days: 32, metric: { lifecycle: "was_active" } },
    });
    await user.selectOptions(screen.getByLabelText("When"), "1 Jan 2027 to 31 Mar 2027");
    const share = screen.getByLabelText("Percentage of all people");
    await user.clear(share);
    await user.type(share, "80{Tab}");
    await user.click(screen.getByRole("button", { name: "Start on 1 Jan 2027" }));
    await waitFor(() =>
      expect(sent("/standing-holdouts").map(({ body }) => body)).toContainEqual({
        ...{ share: 0.5, first_day: "2027-01-01", last_day: "2027-03-31" },
      }),
    );
  });

  it("tells how each stands, ends one that is in force, and calls one off that is not", async () => {
    const user = await shown([coming, now, over]);
    const rows = within(screen.getByTestId("standing-holdouts"))
      .getAllByRole("row")
      .map((row) => [...row.children].map((cell) => cell.textContent!.trim()).join(", "));
    expect(rows[1]).toBe("1 Jan 2027 to 31 Mar 2027, 5%, starts in 34 days, Delete");
    expect(rows[2]).toBe("1 Oct 2026 to 31 Dec 2026, 10%, active, 33 days left, End today");
    expect(rows[3]).toBe("1 Jul 2026 to 30 Sep 2026, 5%, over, ");
    expect(screen.getByLabelText("When").textContent).not.toContain("1 Jan 2027");
    const held = screen.getByRole("link", { name: "10%: people in the holdout" });
    expect(held.getAttribute("href")).toMatch(/^\/people\?.*held_by=2/);
    await user.click(screen.getByRole("button", { name: "End today 1 Oct 2026 to 31 Dec 2026" }));
    await user.click(screen.getByRole("button", { name: "End today permanently" }));
    await waitFor(() => expect(sent("/standing-holdouts/2/end")).toHaveLength(1));
    await user.click(screen.getByRole("button", { name: "Delete 1 Jan 2027 to 31 Mar 2027" }));
    await user.click(screen.getByRole("button", { name: "Delete permanently" }));
    await waitFor(() => expect(sent("/standing-holdouts/3")).toHaveLength(1));
  });

  it("measures the last that has begun by activity, state and revenue, or the one that is chosen", async () => {
    const user = await shown([coming, now, over]);
    const metrics = (body: unknown) => {
      const { metric, also } = body as { metric: object; also: object[] };
      return [metric, ...also];
    };
    await waitFor(() => expect(last(EFFECT).body).toMatchObject({ standing: 2 }));
    expect(last(EFFECT).body).not.toHaveProperty("days");
    const paid = { event: "ride_ended", measure: "sum", property: "distance_km" };
    const [active, state] = [{ lifecycle: "was_active" }, { lifecycle: "is_active" }];
    expect(metrics(last(EFFECT).body)).toEqual([active, state, paid]);
    await user.selectOptions(screen.getByLabelText("Measured by"), "revenue per person");
    await waitFor(() => expect(metrics(last(EFFECT).body)).toEqual([paid, active, state]));
    await user.selectOptions(screen.getByLabelText("Event"), "pass_bought");
    await waitFor(() => expect(last(EFFECT).body).toMatchObject({ metric: { property: "price" } }));
    expect(screen.queryByLabelText("Within days")).toBeNull();
    address.go("/exports/standing?standing=1");
    await waitFor(() => expect(last(EFFECT).body).toMatchObject({ standing: 1 }));
  });

  it("lets analysts look, not begin", async () => {
    session.known = signedIn({ role: "analyst" });
    await shown([now]);
    expect(screen.queryByRole("button", { name: /Begin|End/ })).toBeNull();
    expect(screen.getByText(/Only administrators can start or end/)).toBeTruthy();
  });
});
