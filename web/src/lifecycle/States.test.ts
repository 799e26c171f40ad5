import type { Node } from "../audiences/definition";
import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { workspace } from "../lib/workspace.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { user, write } from "../testing/editing";
import { meant } from "../testing/links";
import { last, longKept, Refused, sent, serve } from "../testing/server";
import States from "./States.svelte";

const PATH = "/analyses/states";
const week = (from: string, to: string, complete: boolean, ratio: number | null) => ({
  ...{ from, to, complete, net: 30, gain_loss_ratio: ratio, table: [[0]] },
  ...{ joined: 50, came_and_lapsed: 5, reactivated: 15, retained: 235, lapsed: 35, newly_churned: 8 },
});
const counts = {
  ...{ never_active: [40, 30, 30], new: [50, 60, 55], active: [200, 240, 245] },
  ...{ dormant: [80, 90, 95], churned: [10, 12, 14] },
};
const state = (name: keyof typeof counts) => ({
  ...{ state: name, count: counts[name][2]!, share: 0.1, before: counts[name][0]!, change: 5 },
});
const picture = {
  ...{ from: "2026-10-12", to: "2026-10-31", before: "2026-10-11", step: "week" as const, people: 439 },
  dates: ["2026-10-18", "2026-10-25", "2026-10-31"],
  reactivated: { now: 17, counts: [10, 12, 17] },
  states: (["never_active", "new", "active", "dormant", "churned"] as const).map(state),
  counts,
  periods: [
    week("2026-10-12", "2026-10-18", true, 65 / 35),
    week("2026-10-19", "2026-10-25", true, 0.5),
    week("2026-10-26", "2026-10-31", false, null),
  ],
  gain_loss: { gained: 50, lapsed: 100, ratio: 0.5 },
  compared: null,
  dormant: { origins: { new: 20, active: 70, reactivated: 5 }, spans: [{ from: 30, to: 59, people: 95 }] },
};
const reactivatedOnce: Node = { lifecycle: { is: ["dormant"], from: ["new", "active"], reactivated: true } };
const tables = [
  tableOf(
    "states",
    ["state:state", "people:people", "before:count", "change:change", "meaning:text"],
    ...picture.states.map((row) => ({
      values: [row.state, row.count, row.before, row.change, "as the rules say"],
      people: { lifecycle: { is: [row.state] } },
    })),
  ),
  tableOf(
    "periods",
    ["from:date", "to:date", "complete:flag", "joined:people", "gain_loss_ratio:ratio"],
    ...picture.periods.map((row) => ({
      values: [row.from, row.to, row.complete, row.joined, row.gain_loss_ratio],
      cells: { joined: { all: [] } },
    })),
  ),
  tableOf("origins", ["origin:text", "people:people"], {
    values: ["had been reactivated for a single day", 5],
    people: reactivatedOnce,
  }),
];
const answer = answerOf("states", picture, {
  finding: "On 31 Oct 2026, 300 people are new or active.",
  tables,
});
const never_active = [500, 40, 10, 5, 0];
const between = answerOf("state-movement", {
  ...week("2026-10-19", "2026-10-25", true, 0.5),
  table: [never_active, [0, 20, 15, 5, 0], [0, 0, 200, 30, 0], [0, 0, 12, 60, 8], [0, 0, 3, 0, 90]],
});

function answered() {
  serve({ [`POST ${PATH}`]: answer, "POST /analyses/state-movement": between });
}

beforeEach(() => {
  workspace.info = longKept;
});

describe("states", () => {
  it("count everybody, each count opening its people as of the date", async () => {
    answered();
    render(States);
    expect((await screen.findByTestId("finding")).textContent).toMatch(/300 people are new or active/);
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", from: "2025-11-01", step: "week", compare_with: null },
    });
    const table = within(screen.getByRole("table", { name: "states" }));
    expect(table.getAllByRole("row").map((row) => row.querySelector("a")?.textContent)).toEqual([
      ...[undefined, "30", "55", "245", "95", "14"],
    ]);
    expect(table.getByRole("link", { name: "95" }).getAttribute("href")).toBe("/people?state=dormant");
    expect(meant(screen.getByRole("link", { name: "17" }))).toEqual([
      { lifecycle: { is: ["new", "active"], reactivated: true } },
    ]);
  });

  it("are switched in and out of the picture by its key, drawn as counts or shares, all in the address", async () => {
    answered();
    render(States);
    const key = within(await screen.findByTestId("states-key"));
    const texts = () =>
      [...screen.getByTestId("strata").querySelectorAll("text")].map((one) => one.textContent!.trim());
    const names = () =>
      ["never active", "churned", "dormant", "new", "active"].filter((name) =>
        texts().some((text) => text.startsWith(`${name} `)),
      );
    expect(names()).toEqual(["churned", "dormant", "new", "active"]);
    expect(key.getByText("Gain/loss ratio").textContent).toMatch(/Gain\/loss ratio\s+\?\s+0.50/);
    expect(key.getByText(/joined \+ reactivated/).textContent).toMatch(/= 50 ÷ 100, over the complete weeks/);
    await user.click(key.getByRole("button", { name: "Show churned in the chart" }));
    await user.click(key.getByRole("button", { name: "Show never active in the chart" }));
    expect(address.get("without")).toBe("churned");
    await waitFor(() => expect(names()).toEqual(["never active", "dormant", "new", "active"]));
    for (const name of ["never active", "dormant", "new", "active"]) {
      await user.click(key.getByRole("button", { name: `Show ${name} in the chart` }));
    }
    expect(names()).toEqual(["active"]);
    await user.click(key.getByRole("button", { name: "shares" }));
    expect(address.get("drawn")).toBe("shares");
    await waitFor(() => expect(texts()).toContain("active 100%"));
  });

  it("tell from where to where people went in the last complete week, or in the one chosen", async () => {
    answered();
    render(States);
    await waitFor(() =>
      expect(last("/analyses/state-movement")?.body).toMatchObject({
        from: "2026-10-18",
        as_of: "2026-10-25",
      }),
    );
    const periods = within(await screen.findByRole("table", { name: "periods" }));
    expect(periods.getAllByRole("row")[1]!.textContent).toContain("incomplete");
    expect(periods.getByText("0.50")).toBeTruthy();
    await user.click(periods.getByRole("link", { name: "18 Oct 2026" }));
    address.go(periods.getByRole("link", { name: "18 Oct 2026" }).getAttribute("href")!);
    await waitFor(() =>
      expect(last("/analyses/state-movement").body).toMatchObject({
        from: "2026-10-11",
        as_of: "2026-10-18",
      }),
    );
    expect(sent(PATH)).toHaveLength(1);
  });

  it("ask anew when the range, the steps or what they are compared with change", async () => {
    answered();
    render(States);
    await screen.findByTestId("finding");
    address.go("/?range=90&step=month&behind=year");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ from: "2026-08-03", step: "month", compare_with: "year" }),
    );
    address.go("/?as_of=2026-09-30&rules=7");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ as_of: "2026-09-30", rule_set: 7 }));
  });

  it("are worded as a sentence whose phrases stand in the address", async () => {
    answered();
    render(States);
    const question = await screen.findByTestId("question");
    expect(question.textContent).toMatch(/How many people are in each state/);
    await user.selectOptions(screen.getByLabelText("Interval"), "by month");
    await user.selectOptions(screen.getByLabelText("Compared with"), "a year before");
    await user.selectOptions(screen.getByLabelText("Range"), "90 days");
    expect(["step", "behind", "range", "from"].map((name) => address.get(name))).toEqual([
      ...["month", "year", "90", null],
    ]);
    await write("From", "1.9.2026{Enter}");
    expect(address.get("from")).toBe("2026-09-01");
    expect((screen.getByLabelText("Range") as HTMLSelectElement).selectedOptions[0]!.text).toBe("the days");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ from: "2026-09-01", step: "month" }));
    const once = screen.getByRole("link", { name: "had been reactivated for a single day as an audience" });
    expect(meant(once)).toEqual([reactivatedOnce]);
  });

  it("say why there is no answer, and ask again", async () => {
    serve({
      [`POST ${PATH}`]: new Refused(422, "the as-of date lies in the future"),
      "POST /analyses/state-movement": between,
    });
    render(States);
    expect((await screen.findByRole("alert")).textContent).toContain("the as-of date lies in the future");
    expect(screen.queryByTestId("finding")).toBeNull();
    answered();
    await user.click(screen.getByRole("button", { name: "Try again" }));
    expect(await screen.findByTestId("finding")).toBeTruthy();
    expect(screen.queryByRole("alert")).toBeNull();
  });
});
