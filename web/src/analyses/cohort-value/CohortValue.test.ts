import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf } from "../../testing/answers";
import { last, serve } from "../../testing/server";
import CohortValue from "./CohortValue.svelte";

const PATH = "/analyses/cohort-value";

function picture(
  more: Partial<Schemas["CohortValuePicture"]["rows"][number]> = {},
): Schemas["CohortValuePicture"] {
  return {
    ...{
      step: "month",
      start: "bought a pass",
      value: "total price",
      unit: "€",
      quantity: "money",
    },
    cohorts: [{ from: "2026-09-01", to: "2026-09-30", complete: true }],
    periods: ["month 0", "month 1", "month 2"],
    rows: [
      {
        ...{
          name: "all people",
          group: { id: null, kind: "all", value: null, people_in: { all: [] } },
          sizes: [40],
        },
        ...{ totals: [[600]], per_person: [15], cumulative: [15], low: [14], high: [21], running: [15] },
        ...{ cost: 20, unpriced: 0, projection: [15, 18], payback: { at: null, low: 0, high: null } },
        ...more,
      },
    ],
  };
}

async function shown(query = "?event=pass_bought&value=ride_ended&of=distance_km&cost=20", more = {}) {
  address.go(`${PATH}${query}`);
  serve({ [`POST ${PATH}`]: answerOf("cohort-value", picture(more), { finding: "So much." }) });
  render(CohortValue);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("cohort value", () => {
  it("asks what a property amounts to since the first time, against a cost, and says whether that has come back", async () => {
    await shown();
    expect(last(PATH).body).toMatchObject({
      ...{ start: { event: "pass_bought" }, cost: 20, step: "week" },
      value: { event: "ride_ended", measure: "sum", property: "distance_km" },
    });
    expect(screen.getByTestId("value-key").textContent!.replace(/\s+/g, " ")).toMatch(
      /all people 40 .*15.00.* payback: not yet .*projection/,
    );
  });

  it("counts instead, tells it otherwise, and lets go of the cost", async () => {
    const user = await shown("?event=pass_bought&value=ride_ended&of=distance_km&cost=20", {
      payback: { at: 1, low: 0, high: null },
    });
    expect(screen.getByText(/by month 1 \(month 0 to later\)/)).toBeTruthy();
    await user.selectOptions(screen.getByLabelText("Value"), "times");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ value: { event: "ride_ended", measure: "times" } }),
    );
    await user.selectOptions(screen.getByLabelText("Cumulative or per period"), "running");
    expect(address.get("what")).toBe("running");
    expect(screen.queryByText(/how it may go on/)).toBeNull();
    await user.clear(screen.getByLabelText("Acquisition cost per person"));
    await user.tab();
    await waitFor(() => expect(last(PATH).body).not.toHaveProperty("cost"));
  });

  it("takes what people cost from an attribute, and counts how many were there", async () => {
    const user = await shown("?event=pass_bought&cost=attribute:age", { cost: 12 });
    expect(last(PATH).body).toMatchObject({ cost_of: "age" });
    expect(screen.getByTestId("value-key").textContent).toMatch(/payback of 12/);
    expect(screen.queryByLabelText("Acquisition cost per person")).toBeNull();
    await user.selectOptions(screen.getByLabelText("Acquisition cost"), "fixed:");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ cost: 10 }));
    await user.selectOptions(screen.getByLabelText("Value"), "share who did");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ value: { measure: "people" } }));
    expect(screen.getByRole("heading", { name: "Active weeks per person, cumulative" })).toBeTruthy();
  });

  it("leaves out a cost that makes no sense", async () => {
    await shown("?event=pass_bought&cost=-3");
    expect(last(PATH).body).not.toHaveProperty("cost");
    expect(screen.getByText(/could not be read and was ignored: cost/)).toBeTruthy();
  });
});
