import { fireEvent, render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Trends from "./Trends.svelte";

const PATH = "/analyses/trends";
const periods = [
  { from: "2026-10-12", to: "2026-10-18", complete: true },
  { from: "2026-10-19", to: "2026-10-25", complete: true },
  { from: "2026-10-26", to: "2026-10-31", complete: false },
];
type Line = Schemas["TrendsPicture"]["rows"][number];
type Condition = Schemas["AnalysisTable"]["rows"][number]["cells"][string];
const RIDES = { event: "ride_ended", where: [], count: { at_least: 1 } };

function line(name: string, values: number[], more: Partial<Line> = {}): Line {
  return {
    ...{ series: 0, name, values, mean: 12, total: 30, behind: null, shares: null },
    group: { id: null, kind: "all", value: null, people_in: { all: [] } },
    ...more,
  } as Line;
}

function plan(value: string, values: number[]): Line {
  const people_in = { attribute: { name: "plan", compare: "is" as const, value } };
  return line(value, values, {
    group: { id: null, kind: "value", value, people_in },
    shares: [0.5, 0.5, 0.5],
  });
}

/** Who did it between two days, as the core says it. */
function people({ group }: Line, from: string, to: string): Condition {
  const did = { did: { ...RIDES, window: { from, to } } };
  return (group.kind === "all" ? did : { all: [group.people_in, did] }) as Condition;
}

function answered(...rows: Line[]) {
  const cells = (find: (line: Line) => Condition) =>
    Object.fromEntries(rows.map((line, index) => [`line_${index}`, find(line)]));
  const tables = [
    tableOf(
      "lines",
      ["line:text"],
      ...rows.map((line) => ({
        values: [line.name],
        cells: { total: people(line, "2026-10-12", "2026-10-31") },
      })),
    ),
    tableOf(
      "periods",
      ["from:date"],
      ...periods.map(({ from, to }) => ({ values: [from], cells: cells((line) => people(line, from, to)) })),
    ),
  ];
  const picture = {
    ...{ from: "2026-10-12", to: "2026-10-31", step: "week" as const, measure: "people" },
    ...{ column: "people" as const, unit: null, quantity: null, periods, behind: null, rows },
  };
  serve({ [`POST ${PATH}`]: answerOf("trends", picture, { finding: "10 people ended a ride.", tables }) });
}

async function shown(query = "") {
  address.go(`/analyses/trends${query}`);
  render(Trends);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

beforeEach(() => answered(line("ended a ride", [10, 12, 8])));

describe("trends", () => {
  it("begin with the most frequent event and say it as what people did", async () => {
    await shown("?event=ride_ended&from=2026-08-03");
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", series: [{ event: "ride_ended" }], measure: "people", combined: null },
      ...{ from: "2026-08-03", step: "week", behind: null, audiences: [] },
    });
    expect(screen.getByText("had “ride ended” events")).toBeTruthy();
  });

  it("ask for a measure of a property, several events and their ratio, all of it in the address", async () => {
    const user = await shown("?event=ride_ended");
    await user.selectOptions(screen.getByLabelText("Measure"), "The median");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ measure: "median", property: "distance_km" }),
    );
    await user.selectOptions(screen.getByLabelText("Measure"), "How many times people");
    await user.click(screen.getByRole("button", { name: "+ Add event" }));
    await user.selectOptions(screen.getByLabelText("Combine events"), "per");
    await user.selectOptions(screen.getByLabelText("Compared with"), "same period last year");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ measure: "times", combined: "per", behind: "year" }),
    );
    expect((last(PATH).body as { series: unknown[] }).series).toHaveLength(2);
    expect(JSON.parse(address.get("also")!)).toHaveLength(1);
    await user.click(screen.getByRole("button", { name: "Remove event 2" }));
    await waitFor(() => expect(last(PATH).body).toMatchObject({ combined: null }));
    expect((last(PATH).body as { series: unknown[] }).series).toHaveLength(1);
  });

  it("tell people apart, or the events themselves", async () => {
    const user = await shown("?event=ride_ended&compare=4");
    expect(last(PATH).body).toMatchObject({ audiences: [4] });
    await user.selectOptions(screen.getByLabelText("Split by"), "plan (at the time)");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" } }));
    await user.selectOptions(screen.getByLabelText("Split by"), "as_of:plan");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { attribute: "plan", as_of: true } }));
    await user.selectOptions(screen.getByLabelText("Split by"), "event:minutes");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by_event: "minutes" }));
    expect(last(PATH).body).not.toHaveProperty("audiences");
    expect(screen.getByLabelText("And split by").previousSibling?.textContent).toMatch(/^\s+and\s+$/);
    await user.selectOptions(screen.getByLabelText("And split by"), "state");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by_event: "minutes", by: { state: true } }));
    await user.selectOptions(screen.getByLabelText("Split by"), "plan (at the time)");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ by: { both: [{ attribute: "plan" }, { state: true }] } }),
    );
    expect(last(PATH).body).not.toHaveProperty("by_event");
    await user.selectOptions(screen.getByLabelText("Split by"), "the comparison");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ audiences: [4] }));
  });

  it("have lines for as many values as asked for, with the most of what is counted or of people or events", async () => {
    const user = await shown("?event=ride_ended&compare=4&top=3");
    expect(screen.queryByLabelText("How many values")).toBeNull();
    expect(last(PATH).body).not.toHaveProperty("top");
    await user.selectOptions(screen.getByLabelText("Split by"), "event:minutes");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by_event: "minutes", top: 3, most: null }));
    await user.selectOptions(screen.getByLabelText("Measure"), "The median");
    const which = screen.getByLabelText<HTMLSelectElement>("Which values");
    expect(which.selectedOptions[0]!.text).toBe("this measure");
    await user.selectOptions(which, "people");
    await fireEvent.change(screen.getByLabelText("How many values"), { target: { value: "12" } });
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ measure: "median", top: 12, most: "people" }),
    );
    address.go(`${PATH}?event=ride_ended&by=event:minutes&top=21&most=time`);
    expect(await screen.findByText(/could not be read and was ignored: “?top”? and “?most”?/)).toBeTruthy();
  });

  it("open into the people of the whole range, or of the period that is pointed at", async () => {
    answered(plan("monthly", [10, 12, 8]), plan("day", [4, 0, 1]));
    const user = await shown("?event=ride_ended&by=attribute:plan");
    const key = within(screen.getByTestId("line-key"));
    const [first] = key.getAllByRole("link");
    const window = { from: "2026-10-12", to: "2026-10-31" };
    const monthly = { attribute: { name: "plan", compare: "is", value: "monthly" } };
    expect(meant(first!)).toEqual([{ all: [monthly, { did: { ...RIDES, window } }] }]);
    screen.getByRole("group", { name: /by week/ }).focus();
    await user.keyboard("{ArrowLeft}");
    expect(key.getByText("19 Oct 2026 to 25 Oct 2026")).toBeTruthy();
    expect(key.getAllByRole("link").map((link) => link.textContent)).toEqual(["12"]);
    const week = { did: { ...RIDES, window: { from: "2026-10-19", to: "2026-10-25" } } };
    expect(meant(key.getByRole("link"))).toEqual([{ all: [monthly, week] }]);
  });

  it("open into nobody where no condition says who they are", async () => {
    const tables = [
      tableOf("lines", ["line:text"], { values: ["2 other values"] }),
      tableOf("periods", ["from:date"]),
    ];
    const rows = [line("2 other values", [3, 4, 5])];
    const picture = {
      ...{ from: "2026-10-12", to: "2026-10-31", step: "week" as const, measure: "people" },
      ...{ column: "people" as const, unit: null, quantity: null, periods, behind: null, rows },
    };
    serve({ [`POST ${PATH}`]: answerOf("trends", picture, { finding: "Many.", tables }) });
    await shown("?event=ride_ended&by=event:minutes&by_too=state");
    const key = within(screen.getByTestId("line-key"));
    expect(key.getByText("30")).toBeTruthy();
    expect(key.queryByRole("link")).toBeNull();
  });

  it("are switched off and on in the picture; the last one stays", async () => {
    answered(plan("monthly", [10, 12, 8]), plan("day", [4, 5, 1]));
    const user = await shown("?event=ride_ended&by=attribute:plan");
    await user.click(screen.getByRole("button", { name: "Show day in the chart" }));
    expect(address.get("hidden")).toBe("1");
    await user.click(screen.getByRole("button", { name: "Show monthly in the chart" }));
    expect(address.get("hidden")).toBe("1");
    await user.click(screen.getByRole("button", { name: "Show day in the chart" }));
    expect(address.get("hidden")).toBeNull();
  });

  it("are drawn as bars of the whole range, or as shares where there are any", async () => {
    const user = await shown("?event=ride_ended");
    expect(screen.queryByRole("button", { name: "% of total" })).toBeNull();
    await user.click(screen.getByRole("button", { name: "bars" }));
    const bars = within(screen.getByRole("group", { name: "people over the whole period" }));
    expect(meant(bars.getByRole("link", { name: "ended a ride: 30" }))).toEqual([
      { did: { ...RIDES, window: { from: "2026-10-12", to: "2026-10-31" } } },
    ]);
  });

  it("say what of the address made no sense", async () => {
    await shown("?event=ride_ended&also=nothing");
    expect(screen.getByText(/could not be read and was ignored: also/)).toBeTruthy();
  });
});
