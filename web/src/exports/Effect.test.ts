import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { effect as shares, group } from "../testing/effect";
import { last, Refused, serve } from "../testing/server";
import Effect from "./Effect.svelte";

const PATH = "/analyses/export-effect";

async function shown(found: typeof shares, finding = "Higher.") {
  const table = tableOf(
    "groups",
    ["group:text", "people:count", "share:share", "complete:flag"],
    ...found.groups.map(({ people, mean }, index) => ({
      values: [index ? "Holdout" : "Exported", people, mean, found.complete],
    })),
  );
  serve({ [`POST ${PATH}`]: answerOf("export-effect", found, { finding, tables: [table] }) });
  render(Effect, { of: { run: 5 } });
  await screen.findByTestId("finding-effect");
  return userEvent.setup();
}

describe("the effect of a run", () => {
  it("gives both groups, the difference with its interval, and how sure it is", async () => {
    await shown(shares);
    expect(last(PATH).body).toEqual({
      as_of: "2026-10-31",
      run: 5,
      metric: { lifecycle: "came_back" },
      days: 14,
      size: 0.02,
    });
    const rows = screen.getAllByRole("row").map((row) => row.textContent!.replace(/\s+/g, " "));
    expect(rows[1]).toMatch(/Exported 800 30%/);
    expect(rows[2]).toMatch(/Holdout 90 10%/);
    expect(screen.getByRole("img", { name: "Difference +20.0, 95% CI +12.0 to +26.0" })).toBeTruthy();
    expect(screen.getByRole("group", { name: /came back, exported and holdout/ })).toBeTruthy();
    const rest = screen.getByTestId("strips").nextElementSibling!.textContent!.replace(/\s+/g, " ");
    expect(rest).toContain("total lift +160 people (95% CI +96 to +208) among 800 exported");
    expect(rest).toContain("adjusted for the days inactive: +19.0 (95% CI +13.0 to +25.0); variance −20%");
    expect(screen.getByText("p < 0.0001")).toBeTruthy();
    expect(screen.getByText(/relative lift \+200\.0% \(95% CI \+60\.0 to \+460\.0\)/)).toBeTruthy();
  });

  it("is measured by what is chosen, which stands in the address", async () => {
    const user = await shown(shares);
    const asked = () => last(PATH).body;
    await user.selectOptions(screen.getByLabelText("Measured by"), "average per person:");
    await waitFor(() =>
      expect(asked()).toMatchObject({
        metric: { measure: "sum", event: "ride_ended", property: "distance_km" },
        size: 0.1,
      }),
    );
    await user.selectOptions(screen.getByLabelText("Property"), "minutes");
    await user.selectOptions(
      screen.getByRole("combobox", { name: "Minimum detectable effect" }),
      "50% of the control mean",
    );
    await waitFor(() => expect(asked()).toMatchObject({ metric: { property: "minutes" }, size: 0.5 }));
    await user.selectOptions(screen.getByLabelText("Event"), "pass_bought");
    await waitFor(() =>
      expect(asked()).toMatchObject({ metric: { event: "pass_bought", property: "price" } }),
    );
    await user.selectOptions(screen.getByLabelText("Measured by"), "share who");
    await user.clear(screen.getByLabelText("Within days"));
    await user.type(screen.getByLabelText("Within days"), "7{Tab}");
    const metric = { event: "ride_ended", measure: "people" };
    await waitFor(() =>
      expect(asked()).toEqual({ as_of: "2026-10-31", run: 5, metric, days: 7, size: 0.02 }),
    );
    expect(address.get("days")).toBe("7");
  });

  it("shows no difference where there is nothing to compare, and what was asked wrongly", async () => {
    const user = await shown(
      { ...shares, difference: null, relative: null, p_value: null },
      "Too few people.",
    );
    expect(screen.queryByRole("img", { name: /Difference/ })).toBeNull();
    serve({ [`POST ${PATH}`]: new Refused(422, "days must be a whole number from 1 to 365") });
    await user.type(screen.getByLabelText("Within days"), "999{Tab}");
    expect((await screen.findByRole("alert")).textContent).toContain("from 1 to 365");
    expect(screen.queryByTestId("finding-effect")).toBeNull();
  });

  it("says sums as they are, with their sign", async () => {
    const found = { estimate: -0.5, low: -1.25, high: 0.25 };
    await shown({
      ...{ ...shares, share: false, difference: found, relative: null, p_value: 0.2, adjusted: null },
      groups: [group(800, 400, 1.5), group(90, 50, 2)],
    });
    expect(screen.getByText("95% CI −1.25 to +0.25")).toBeTruthy();
    expect(screen.getByText("p = 0.2000")).toBeTruthy();
  });

  it("takes which way is wanted, other outcomes, and groups, and shows these beside each other", async () => {
    const difference = { estimate: 0.1, low: -0.1, high: 0.3 };
    const within = [
      {
        key: "values",
        label: "",
        differ: 0.4,
        groups: [
          { name: "dormant", difference },
          { name: "new", difference: null },
        ],
      },
    ];
    const user = await shown({ ...shares, within });
    expect(screen.getByRole("img", { name: /Difference in dormant \+10\.0/ })).toBeTruthy();
    expect(screen.queryByRole("img", { name: /within new/ })).toBeNull();
    await user.selectOptions(screen.getByLabelText("Wanted direction"), "decrease wanted");
    await user.selectOptions(screen.getByLabelText("Split by"), "state");
    await user.click(screen.getByRole("button", { name: "+ Add event" }));
    await waitFor(() =>
      expect(last(PATH).body).toEqual({
        ...{ as_of: "2026-10-31", run: 5, metric: { lifecycle: "came_back" }, days: 14, size: 0.02 },
        ...{ better: "less", by: { state: true }, also: [{ event: "ride_ended", measure: "people" }] },
      }),
    );
  });
});
