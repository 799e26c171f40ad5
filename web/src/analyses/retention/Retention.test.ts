import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Retention from "./Retention.svelte";

const PATH = "/analyses/retention";
const began = (cohort: number) => ({ first: { event: "pass_bought", window: { last_days: cohort + 1 } } });
const back = (period: number) => ({ did: { event: "ride_ended", window: { last_days: period + 1 } } });

function picture(): Schemas["RetentionPicture"] {
  const point = (people: number, size: number) => ({
    people,
    size,
    share: people / size,
    low: 0.1,
    high: 0.9,
  });
  return {
    ...{ step: "week", elapsed: false, first: true, counted: "in", at: null },
    ...{ start: "bought a pass", return: "ended a ride" },
    cohorts: [
      { from: "2026-10-19", to: "2026-10-25", complete: true, places: [true, false] },
      { from: "2026-10-26", to: "2026-10-31", complete: false, places: [false, false] },
    ],
    places: [
      { from: 0, to: 0, said: "week 0" },
      { from: 1, to: 1, said: "week 1" },
    ],
    rows: [
      {
        ...{ name: "all people", group: { id: null, kind: "all", value: null, people_in: { all: [] } } },
        ...{ sizes: [40, 20], over_time: null, trend: null },
        cells: [
          [30, 8],
          [5, 0],
        ],
        curve: [point(30, 40), { people: 0, size: 0, share: null, low: null, high: null }],
      },
    ],
  };
}

function tables(): Schemas["AnalysisTable"][] {
  const column = (key: string, label: string, kind: "text" | "people" | "share") => ({
    ...{ key, label, kind, unit: null, of: null, line: null },
  });
  const cohorts = [
    column("cohort", "Cohort", "text"),
    column("size", "People", "people"),
    column("at_0", "week 0", "share"),
    column("at_1", "week 1", "share"),
  ];
  const curve = [column("place", "Period", "text"), column("people_0", "Came back", "people")];
  return [
    {
      ...{ key: "curve", title: "Over all complete cohorts", columns: curve, figures: [] },
      rows: [{ values: ["week 0", 30], people: null, cells: { people_0: { any: [began(0)] } } }],
    },
    {
      ...{ key: "cohorts_0", title: "Cohorts", columns: cohorts, figures: [] },
      rows: [
        {
          ...{ values: ["19 Oct to 25 Oct 2026", 40, 0.75, 0.2], people: began(0) },
          cells: { at_0: { all: [began(0), back(0)] }, at_1: { all: [began(0), back(1)] } },
        },
        { values: ["26 Oct to 31 Oct 2026", 20, 0.25, null], people: began(1), cells: {} },
      ],
    },
  ] as Schemas["AnalysisTable"][];
}

async function shown(query = "?event=pass_bought&return=ride_ended") {
  address.go(`${PATH}${query}`);
  serve({
    [`POST ${PATH}`]: answerOf("retention", picture(), { finding: "Most came back.", tables: tables() }),
  });
  render(Retention);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("retention", () => {
  it("asks who came back after a first time, week by week, and says whom a cell holds", async () => {
    const user = await shown();
    expect(last(PATH).body).toMatchObject({
      ...{
        start: { event: "pass_bought" },
        return: { event: "ride_ended" },
        starts: "first",
        elapsed: false,
      },
      ...{ counted: "in", step: "week", audiences: [] },
    });
    const cohorts = within(screen.getByRole("region", { name: "Cohorts" }));
    expect(cohorts.getAllByRole("button")).toHaveLength(3);
    await user.click(cohorts.getByRole("button", { name: "20%: 19 Oct to 25 Oct 2026, week 1, 8 of 40" }));
    const told = within(screen.getByTestId("cell"));
    expect(screen.getByTestId("cell").textContent).toContain(
      "19 Oct to 25 Oct 2026: 8 of 40 (20%) returned, week 1 (incomplete)",
    );
    const cell = { all: [began(0), back(1)] };
    expect(meant(told.getByRole("link", { name: "Returned" }))).toEqual([cell]);
    expect(meant(told.getByRole("link", { name: "Did not return" }))).toEqual([began(0), { not: cell }]);
    await user.click(screen.getByRole("button", { name: "people" }));
    expect(cohorts.getByRole("button", { name: /week 1, 8 of 40/ }).textContent).toBe("8");
  });

  it("counts in other ways, from the moment on, and in ranges of periods, all of it in the address", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Which start"), "each");
    await user.selectOptions(screen.getByLabelText("Retention type"), "every");
    await user.selectOptions(screen.getByLabelText("How time is counted"), "1");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ starts: "each", counted: "every", elapsed: true }),
    );
    await user.selectOptions(screen.getByLabelText("Retention type"), "ranges");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({
        ranges: [
          [0, 0],
          [1, 3],
          [4, 7],
        ],
      }),
    );
    expect(address.get("counted")).toBe("ranges");
  });

  it("looks at one period cohort by cohort", async () => {
    const user = await shown();
    expect(last(PATH).body).not.toHaveProperty("at");
    await user.click(screen.getByRole("button", { name: "One period by cohort" }));
    await waitFor(() => expect(last(PATH).body).toMatchObject({ at: 1 }));
    await user.selectOptions(screen.getByLabelText("Which period"), "week 0");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ at: 0 }));
    expect(screen.getByText("not enough data")).toBeTruthy();
  });

  it("leaves out edges that do not rise", async () => {
    await shown("?event=pass_bought&return=ride_ended&counted=ranges&edges=4,1");
    expect(last(PATH).body).toMatchObject({ counted: "ranges" });
    expect(screen.getByText(/could not be read and was ignored: edges/)).toBeTruthy();
  });
});
