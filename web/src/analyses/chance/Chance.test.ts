import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { groupings } from "../../groupings/groupings.svelte";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, sent, serve } from "../../testing/server";
import Chance from "./Chance.svelte";

const PATH = "/analyses/chance";
const tenth = (from: number | null, to: number | null, observed: number, people: number) => ({
  ...{ from, to, predicted: observed, observed, low: observed / 2, high: observed * 1.5, lift: 1 },
  ...{ tested: 50, people, expected: people * observed },
});
const picture: Schemas["ChancePicture"] = {
  ...{ of: "come_back", within_days: 30, refused: null },
  learned_from: { from: "2026-07-03", to: "2026-09-01", people: 900, happened: 200 },
  tested_on: { from: "2026-10-01", to: "2026-10-01", people: 100, happened: 30 },
  tenths: [tenth(null, 0.2, 0.1, 60), tenth(0.2, null, 0.5, 40)],
  discrimination: {
    model: { estimate: 0.81, low: 0.79, high: 0.83 },
    plain: { estimate: 0.7, low: 0.68, high: 0.72 },
    difference: { estimate: 0.11, low: 0.09, high: 0.13 },
  },
  weights: [
    { name: "days inactive only", odds: 0.5, low: 0.4, high: 0.6 },
    { name: "days of activity", odds: 1.1, low: 0.9, high: 1.3 },
  ],
  model: { of: "come_back" },
};
const likely = { lifecycle: { is: ["dormant" as const] } };

async function shown(query: string, made = picture) {
  address.go(`${PATH}${query}`);
  const rows = [
    { values: ["20.0% or more", 40], people: likely },
    { values: ["below 20.0%", 60], people: { lifecycle: { is: ["churned" as const] } } },
  ];
  const table = tableOf("tenths", ["chance:text", "people:people"], ...rows);
  serve({
    [`POST ${PATH}`]: answerOf("chance", made, { finding: "Some may.", tables: made.model ? [table] : [] }),
  });
  render(Chance);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("chance", () => {
  it("draws what came of it tenth by tenth, opens the people of each, and says how well it tells them apart", async () => {
    await shown("");
    expect(last(PATH).body).toMatchObject({ of: "come_back", within_days: 30 });
    expect(meant(screen.getByRole("link", { name: "people today, 2: 40" }))).toEqual([likely]);
    const key = within(screen.getByTestId("chance-key"));
    expect(key.getByText("0.810 (0.790 to 0.830)").tagName).toBe("DD");
    expect(key.getAllByText(/^× /).map((odds) => odds.textContent)).toEqual([
      "× 0.50 (0.40 to 0.60)",
      "× 1.10 (0.90 to 1.30)",
    ]);
  });

  it("keeps the tenths as groups by which people are told apart elsewhere, the likeliest first", async () => {
    const user = await shown("");
    const kept = { id: 3, name: "Tenths", author: "", updated_at: "", deleted: false, groups: [] };
    serve({ "POST /groupings": kept, "GET /groupings": { groupings: [kept] } });
    await user.click(screen.getByRole("button", { name: "Save deciles as custom groups" }));
    await waitFor(() => expect(groupings.list).toHaveLength(1));
    expect(sent("/groupings")[0]!.body).toEqual({
      name: "Reactivation probability within 30 days, deciles of 31 Oct 2026",
      groups: [
        { name: "decile 2", who: likely },
        { name: "decile 1", who: { lifecycle: { is: ["churned"] } } },
      ],
    });
  });

  it("asks of lapsing and of other days, all of it in the address, and says why there is no model", async () => {
    const user = await shown("?within=60", {
      ...picture,
      model: null,
      tenths: [],
      discrimination: null,
      weights: [],
    });
    expect(last(PATH).body).toMatchObject({ within_days: 60 });
    await user.selectOptions(screen.getByLabelText("What"), "new and active people to lapse");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ of: "lapse" }));
    expect(screen.queryByTestId("chance-key")).toBeNull();
  });
});
