import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Frequency from "./Frequency.svelte";
import { edgesOf } from "./question";

const PATH = "/analyses/frequency";
const DID = { event: "ride_ended", where: [], window: { from: "2026-10-02", to: "2026-10-31" } };
type Picture = Schemas["FrequencyPicture"];
type Line = Picture["rows"][number];
type Condition = Schemas["AnalysisTable"]["rows"][number]["cells"][string];

function line(name: string, counts: number[], more: Partial<Line> = {}): Line {
  const people = counts.reduce((sum, count) => sum + count, 0);
  return {
    ...{ series: 0, name, people, counts, shares: counts.map((count) => count / people) },
    ...{ behind: null, over: null, mean: 2.25, median: 2 },
    group: { id: null, kind: "all", value: null, people_in: { all: [] } },
    ...more,
  };
}

/** Whoever did it so often, as the core says it. */
function people({ group }: Line, count: object): Condition {
  const did = { did: { ...DID, count } };
  return (group.kind === "all" ? did : { all: [group.people_in, did] }) as Condition;
}

async function shown(query: string, rows: Line[], more: Partial<Picture> = {}) {
  address.go(`/analyses/frequency${query}`);
  const buckets = [
    { from: 1, to: 1, said: "1" },
    { from: 2, to: 5, said: "2–5" },
    { from: 6, to: null, said: "6 or more" },
  ];
  const picture: Picture = {
    ...{ from: "2026-10-02", to: "2026-10-31", unit: "events", of_all: false, behind: null, buckets },
    ...{ periods: null, rows },
    ...more,
  };
  const numbers = [{ exactly: 1 }, { between: [2, 5] }, { at_least: 6 }];
  const table = tableOf(
    "buckets",
    ["bucket:text"],
    ...buckets.map(({ said }, at) => ({
      values: [said],
      cells: Object.fromEntries(rows.map((row, index) => [`people_${index}`, people(row, numbers[at]!)])),
    })),
  );
  const told = { finding: "Most did so once.", tables: [table] };
  serve({ [`POST ${PATH}`]: answerOf("frequency", picture, told) });
  render(Frequency);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("frequency", () => {
  it("counts times of the last 30 days, and each bar opens into its people", async () => {
    await shown("?event=ride_ended", [line("ended a ride", [50, 30, 20])]);
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", series: [{ event: "ride_ended" }], unit: "events", from: "2026-10-02" },
      ...{ of_all: false, behind: null, over_time: false, audiences: [] },
    });
    const bars = within(screen.getByRole("group", { name: "People by number of times" }));
    const opened = (name: string) => meant(bars.getByRole("link", { name }));
    expect(opened("ended a ride, 1×: 50%")).toEqual([{ did: { ...DID, count: { exactly: 1 } } }]);
    expect(opened("ended a ride, 2–5×: 30%")).toEqual([{ did: { ...DID, count: { between: [2, 5] } } }]);
    expect(opened("ended a ride, 6× or more: 20%")).toEqual([{ did: { ...DID, count: { at_least: 6 } } }]);
  });

  it("counts days of everybody, beside the days before, all of it in the address", async () => {
    const user = await shown("?event=ride_ended", [line("ended a ride", [50, 30, 20])]);
    await user.selectOptions(screen.getByLabelText("Counted by"), "days");
    await user.selectOptions(screen.getByLabelText("Shares of"), "all people");
    await user.selectOptions(screen.getByLabelText("Compared with"), "previous period");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ unit: "days", of_all: true, behind: "previous" }),
    );
    expect(address.get("unit")).toBe("days");
  });

  it("tells groups apart, beside each other or stacked by how many they are", async () => {
    const people_in = { attribute: { name: "plan", compare: "is" as const, value: "day" } };
    const group = { id: null, kind: "value" as const, value: "day", people_in };
    const user = await shown("?event=ride_ended&by=attribute:plan", [
      line("monthly", [10, 30, 60]),
      line("day", [80, 20, 0], { group }),
    ]);
    expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" } });
    await user.click(screen.getByRole("button", { name: "stacked" }));
    const link = screen.getByRole("link", { name: "day, 1×: 80" });
    expect(meant(link)).toEqual([{ all: [people_in, { did: { ...DID, count: { exactly: 1 } } }] }]);
    expect(screen.queryByRole("link", { name: /day, 6×/ })).toBeNull();
  });

  it("draws the bars over time, in the steps that are asked for", async () => {
    const over = [
      [0.5, 0.25, 0.25],
      [0.75, 0.25, 0],
    ];
    const periods = [
      { from: "2026-10-19", to: "2026-10-25", complete: true },
      { from: "2026-10-26", to: "2026-10-31", complete: false },
    ];
    const rows = [line("ended a ride", [50, 30, 20], { over })];
    const user = await shown("?event=ride_ended&bars=time", rows, { periods });
    expect(last(PATH).body).toMatchObject({ over_time: true, step: "week" });
    expect(screen.getByRole("group", { name: /by week/ })).toBeTruthy();
    await user.selectOptions(screen.getByLabelText("Interval"), "by month");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ step: "month" }));
  });

  it("takes edges that rise, and says where they do not", async () => {
    const user = await shown("?event=ride_ended", [line("ended a ride", [50, 30, 20])]);
    const field = screen.getByLabelText(/^Buckets:/);
    await user.clear(field);
    await user.type(field, "1, 3; 10{Tab}");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ edges: [1, 3, 10] }));
    expect(edgesOf("every 5")).toEqual([1, 6, 11, 16, 21, 26, 31, 36, 41, 46]);
    expect([
      edgesOf("every 0"),
      edgesOf("3,3"),
      edgesOf("0,1"),
      edgesOf("a"),
      edgesOf(""),
      edgesOf("1.5"),
    ]).toEqual(Array(6).fill(null));
    await user.clear(field);
    await user.type(field, "5, 2{Tab}");
    expect(await screen.findByText(/could not be read and was ignored: edges/)).toBeTruthy();
  });
});
