import type { Node } from "../audiences/definition";
import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { user } from "../testing/editing";
import { meant } from "../testing/links";
import type { Schemas } from "../lib/api/client";
import { last, ruleSet, Refused, serve } from "../testing/server";
import Thresholds from "./Thresholds.svelte";

const PATH = "/analyses/thresholds";
const curve = [
  [0, 1, 1, 1, 0, 40],
  [30, 0.4, 0.35, 0.45, 2, 16],
  [90, 0.1, null, null, 1, 4],
];
const picture = {
  ...{
    horizon: 90,
    share: 0.1,
    dormant_share: 0.5,
    active_within: 30,
    churned_after: 90,
    gaps: 40,
    longest: 120,
  },
  ...{
    curve,
    reactivation: [[30, 0.6, 0.5, 0.7] as (number | null)[], [90, 0.08, null, null]],
    at_dormant: 0.6,
    at_churned: null,
  },
  suggested: { active_within: 41, churned_after: null },
  warnings: ["the first", "Fewer than 50 gaps in activity."],
  groups: [] as object[],
};
const thresholds = (more: object = {}, tables: Schemas["AnalysisTable"][] = []) =>
  answerOf("thresholds", { ...picture, ...more } as never, { finding: "30 days are early.", tables });
const back = (within90: number | null) => ({ "30": 2, "60": 3, "90": within90 });
const newly: Node = { all: [{ lifecycle: { is: ["churned"], on: "2026-03-25" } }] };
const backtest = answerOf(
  "backtest",
  {
    ...{ churned_after: 90, people: 100, between: 2 },
    rows: Array.from({ length: 12 }, (_, week) => ({
      ...{ date: `2026-0${1 + Math.floor(week / 4)}-${10 + (week % 4) * 5}`, churned: 50, newly: 10 },
      ...{ back: back(4), newly_back: back(week === 11 ? null : 4) },
    })),
  },
  {
    finding: "Of 110 people 40% were reactivated.",
    tables: [
      tableOf(
        "weeks",
        ["date:date", "newly:people", "back_90:count:newly"],
        { values: ["2026-03-18", 10, 4] },
        { values: ["2026-03-25", 10, null], cells: { newly } },
      ),
    ],
  },
);
const effect = answerOf(
  "rules-effect",
  {
    ...{ states: ["active", "dormant"], changed: 0, rules: ruleSet, before: [9, 1], after: [9, 1] },
    table: [
      [9, 0],
      [0, 1],
    ],
  },
  { finding: "Nobody would change state." },
);

beforeEach(() =>
  serve({
    [`POST ${PATH}`]: thresholds(),
    "POST /analyses/backtest": backtest,
    "POST /analyses/rules-effect": effect,
  }),
);

describe("thresholds", () => {
  it("say what the default counts mean, what would keep to a share, and what to bear in mind", async () => {
    render(Thresholds);
    expect((await screen.findByTestId("finding")).textContent).toBe("30 days are early.");
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", active_within: 30, churned_after: 90, audiences: [] },
      ...{ horizon: 90, share: 0.1, dormant_share: 0.5 },
    });
    expect(screen.getByText(/60% of people who reach it are reactivated within 90 days/)).toBeTruthy();
    expect(screen.getByText(/Not enough history to estimate/)).toBeTruthy();
    expect(screen.getByText("No threshold brings it to 10% or less in this data.", { exact: false })).toBeTruthy();
    expect(screen.queryByRole("link", { name: "Apply to rules…" })).toBeNull();
    expect(await screen.findByText("Nobody would change state.")).toBeTruthy();
  });

  it("can be tried, are taken over into the rules, and must leave room for the dormant", async () => {
    render(Thresholds);
    await user.click(await screen.findByRole("button", { name: "41 days" }));
    expect(address.get("dormant")).toBe("41");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ active_within: 41 }));
    await waitFor(() =>
      expect(last("/analyses/backtest").body).toMatchObject({ active_within: 41, weeks: 52 }),
    );
    expect(last("/analyses/rules-effect").body).toMatchObject({
      tried: { active_within: 41, churned_after: 90 },
    });
    expect((await screen.findByRole("link", { name: "Apply to rules…" })).getAttribute("href")).toBe(
      "/lifecycle/rules?edit=7&dormant=41&churned=90",
    );
    address.go("/lifecycle/thresholds?dormant=95&share=25");
    await waitFor(() => expect(last(PATH).body).not.toHaveProperty("active_within"));
    expect(last(PATH).body).toMatchObject({ share: 0.25 });
    expect(screen.getByRole("alert").textContent).toContain("Churned must start later than dormant");
    expect(screen.queryByTestId("finding-backtest")).toBeNull();
  });

  it("are tested on past weeks, the newest first, each opening who was newly called churned", async () => {
    render(Thresholds);
    const rows = within(await screen.findByRole("table", { name: "weeks" })).getAllByRole("row");
    expect(screen.getByTestId("finding-backtest").textContent).toContain("40% were reactivated");
    expect(rows.map((row) => row.textContent!.replace(/\s+/g, " ")).slice(1)).toEqual([
      expect.stringMatching(/25 Mar 2026 10 –/),
      expect.stringMatching(/18 Mar 2026 10 4 40%/),
    ]);
    expect(meant(within(rows[1]!).getByRole("link", { name: "10" }))).toEqual([newly]);
  });

  it("can be of groups, which are named; one that makes no sense is not asked about", async () => {
    const group = {
      people: 5,
      gaps: 7,
      curve,
      at_churned: null,
      suggested: null,
      id: null,
      people_in: { all: [] },
    };
    const groups = [
      { ...group, kind: "value", value: "yearly", suggested: 60, at_churned: 0.2 },
      { ...group, kind: "not_set", value: null },
    ];
    const table = tableOf("groups", ["group:text", "people:people"], { values: ["yearly", 5] });
    serve({ [`POST ${PATH}`]: thresholds({ groups }, [table]) });
    address.go("/lifecycle/thresholds?by=attribute:plan");
    render(Thresholds);
    await screen.findByRole("table", { name: "groups" });
    expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" }, top: 6 });
    await user.selectOptions(screen.getByLabelText("Split by"), "state");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { state: true } }));
    address.go("/lifecycle/thresholds?by=weather");
    await waitFor(() => expect(last(PATH).body).not.toHaveProperty("by"));
  });

  it("give room to what went wrong in one of their questions only", async () => {
    serve({ "POST /analyses/backtest": new Refused(503, "the database does not answer") });
    render(Thresholds);
    expect((await screen.findByRole("alert")).textContent).toContain("the database does not answer");
    expect(screen.getByTestId("finding")).toBeTruthy();
  });
});
