import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { last, Refused, sent, serve } from "../../testing/server";
import BeforeAfter from "./BeforeAfter.svelte";

const PATH = "/studies/before-after";
const series = [-1, 0, 1].map((day) => ({ day, mean: day < 0 ? 0.5 : 0.75, low: 0.4, high: 0.8 }));
const found = {
  ...{
    people: 120,
    known_too_late: 7,
    not_over: 2,
    measure: "pass_bought",
    start: "",
    before: 28,
    after: 28,
  },
  ...{ series, mean_before: 0.5, mean_after: 0.75, takeaway: "More.", caveat: "It need not be the cause." },
  difference: { people: 120, estimate: 0.25, low: -0.1, high: 0.6, p_value: 0.1 },
  matched: {
    ...{ pairs: 100, series, mean_before: 0.4, mean_after: 0.45, own_before: 0.41, own_after: 0.71 },
    difference: { people: 100, estimate: 0.25, low: 0.05, high: 0.45, p_value: 0.01 },
  },
};

beforeEach(() =>
  serve({
    [`POST ${PATH}`]: found,
    "GET /audiences": { audiences: [{ id: 4, name: "Dormant commuters" }] },
  }),
);

async function shown() {
  render(BeforeAfter);
  await screen.findByTestId("takeaway");
  return userEvent.setup();
}

describe("before and after", () => {
  it("begins with what is likely asked, of days that are over", async () => {
    await shown();
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", first: { event: "pass_bought" }, from: "2026-04-06", to: "2026-10-03" },
      ...{ measure: { event: "ride_ended", of: null }, before: 28, after: 28 },
    });
    const rows = within(screen.getByTestId("before-after")).getAllByRole("row");
    expect(
      rows.slice(1).map((row) =>
        within(row)
          .getAllByRole("cell")
          .map((cell) => cell.textContent),
      ),
    ).toEqual([
      ["who did", "120", "0.500", "0.750", "+0.250", "−0.100 to +0.600"],
      ["of these, matched", "100", "0.410", "0.710", "–", "–"],
      ["like them, who did not", "100", "0.400", "0.450", "–", "–"],
      ["change against theirs", "100", "–", "–", "+0.250", "+0.050 to +0.450"],
    ]);
    expect(screen.getByText(/Left out: 7 who had not been known/)).toBeTruthy();
    expect(screen.getByText(/It need not be the cause/)).toBeTruthy();
    const link = new URL(screen.getByRole<HTMLAnchorElement>("link", { name: /as an audience/ }).href);
    expect(JSON.parse(link.searchParams.get("definition")!)).toEqual({
      all: [{ first: { event: "pass_bought", window: { from: "2026-04-06", to: "2026-10-03" } } }],
    });
  });

  it("goes by a date for an audience, and sums a number; all of it in the address", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Day 0 is"), "a date for everybody");
    await user.selectOptions(screen.getByLabelText("of those in"), "Dormant commuters");
    await user.selectOptions(screen.getByLabelText("Measured by"), "ride_ended");
    await user.selectOptions(screen.getByLabelText("Counted or summed"), "sum of minutes");
    await user.clear(screen.getByLabelText("days after"));
    await user.type(screen.getByLabelText("days after"), "14{Tab}");
    await waitFor(() =>
      expect(last(PATH).body).toEqual({
        ...{ as_of: "2026-10-31", date: "2026-10-17", audience: 4, before: 28, after: 14 },
        measure: { event: "ride_ended", of: "minutes" },
      }),
    );
    expect(address.get("around")).toBe("date");
    await user.selectOptions(screen.getByLabelText("Measured by"), "pass_bought");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ measure: { event: "pass_bought", of: null } }),
    );
  });

  it("says what makes no sense, and what nobody did", async () => {
    const user = await shown();
    serve({ [`POST ${PATH}`]: new Refused(422, "before is a whole number from 1 to 365") });
    await user.clear(screen.getByLabelText("days before"));
    await user.type(screen.getByLabelText("days before"), "0{Tab}");
    expect((await screen.findByRole("alert")).textContent).toContain("from 1 to 365");
    serve({ [`POST ${PATH}`]: { ...found, people: 0, takeaway: "Nobody did that then.", matched: null } });
    await user.click(screen.getByRole("button", { name: "Try again" }));
    expect((await screen.findByTestId("takeaway")).textContent).toBe("Nobody did that then.");
    expect(screen.queryByTestId("before-after")).toBeNull();
    expect(sent(PATH)).toHaveLength(3);
  });
});
