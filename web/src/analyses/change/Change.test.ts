import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Change from "./Change.svelte";

const PATH = "/analyses/change";
const did = { did: { event: "ride_ended", window: { from: "2026-10-19", to: "2026-10-25" } } };
const picture: Schemas["ChangePicture"] = {
  before: { from: "2026-10-12", to: "2026-10-18" },
  after: { from: "2026-10-19", to: "2026-10-25" },
  ...{ step: "week", measure: "people", looked_at: 9 },
  total: { before: 100, after: 80, change: -20, low: -30, high: -10 },
  parts: { size: 2, rate: -22 },
  reasons: [
    {
      split: "plan",
      kind: "behaviour",
      name: "day pass",
      said: "plan “day pass”",
      amount: -15.2,
      low: -20,
      high: -10,
      clear: true,
    },
    {
      split: "plan",
      kind: "mix",
      name: null,
      said: "mix of plan",
      amount: 1,
      low: -2,
      high: 4,
      clear: false,
    },
  ],
  splits: [{ name: "plan", size: 2, mix: 1, behaviour: -23 }],
};

async function shown(query: string) {
  address.go(`${PATH}${query}`);
  const table = tableOf("reasons", ["reason:text", "y_1:count"], {
    values: ["plan “day pass”", 10],
    cells: { y_1: did },
  });
  serve({ [`POST ${PATH}`]: answerOf("change", picture, { finding: "It fell.", tables: [table] }) });
  render(Change);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("change", () => {
  it("draws what stands out, opens into whoever did it, and says what the change is made of", async () => {
    await shown("?event=ride_ended");
    expect(last(PATH).body).toMatchObject({
      of: { event: "ride_ended" },
      measure: "people",
      against: "previous",
      step: "week",
    });
    expect(meant(screen.getByRole("link", { name: "plan “day pass”: −15" }))).toEqual([did]);
    expect(screen.queryByRole("link", { name: /By plan/ })).toBeNull();
    const key = within(screen.getByTestId("change-key"));
    expect(["−20", "+2", "−22"].map((text) => key.getByText(text).textContent)).toEqual(["−20", "+2", "−22"]);
  });

  it("asks of another step, a day, a year before and of times, all of it in the address", async () => {
    const user = await shown("?event=ride_ended&date=2026-10-20");
    expect(last(PATH).body).toMatchObject({ at: "2026-10-20" });
    await user.selectOptions(screen.getByLabelText("Measure"), "how often people");
    await user.selectOptions(screen.getByLabelText("Interval"), "month");
    await user.selectOptions(screen.getByLabelText("Compared with"), "the same month last year");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ measure: "times", step: "month", against: "year" }),
    );
  });
});
