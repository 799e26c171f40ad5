import { fireEvent, render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Funnel from "./Funnel.svelte";
import { moved, settled } from "./question";
import { barsOf } from "./waits";

const PATH = "/analyses/funnel";
const got = (count: number) => ({ order: { steps: Array(count).fill({ event: "ride_ended" }) } });
const lost = (count: number) => ({ all: [got(count), { not: got(count + 1) }] });

function picture(): Schemas["FunnelPicture"] {
  const step = (people: number, more: object) => ({
    ...{
      people,
      share: people / 100,
      low: 0.1,
      high: 0.9,
      of_previous: null,
      lost: null,
      went_on: null,
      wait: null,
    },
    spread: null,
    ...more,
  });
  const wait = { lower: 60, median: 600, upper: 6000 };
  return {
    ...{ from: "2026-08-03", to: "2026-10-31", within: null, same_visit: false, counted: "people" },
    ...{ steps: ["planned a trip", "bought a pass"], optional: [], waits: [60, 86_400], periods: null },
    rows: [
      {
        ...{
          name: "all people",
          group: { id: null, kind: "all", value: null, people_in: { all: [] } },
          over: null,
        },
        steps: [step(100, { lost: 70 }), step(30, { of_previous: 0.3, wait, spread: [3, 24, 3] })],
      },
    ],
  };
}

function tables(): Schemas["AnalysisTable"][] {
  const column = (key: string, kind: "text" | "people") => ({
    ...{ key, label: key, kind, unit: null, of: null, line: null },
  });
  return [
    {
      ...{ key: "steps", title: "By step", figures: [] },
      columns: [column("step", "text"), column("people_0", "people"), column("lost_0", "people")],
      rows: [
        { values: ["planned a trip", 100, 70], people: null, cells: { people_0: got(1), lost_0: lost(1) } },
        { values: ["bought a pass", 30, null], people: null, cells: { people_0: got(2) } },
      ],
    },
  ] as Schemas["AnalysisTable"][];
}

async function shown(
  query = "?event=trip_planned&then=%5B%7B%22event%22%3A%22pass_bought%22%7D%5D",
  data = picture(),
) {
  address.go(`${PATH}${query}`);
  serve({ [`POST ${PATH}`]: answerOf("funnel", data, { finding: "Most stop.", tables: tables() }) });
  render(Funnel);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("a funnel", () => {
  it("asks step by step, and opens who got to a step and who stopped there", async () => {
    await shown();
    expect(last(PATH).body).toMatchObject({
      ...{ steps: [{ event: "trip_planned" }, { event: "pass_bought" }], within: null, from: "2026-08-03" },
      audiences: [],
    });
    const path = within(screen.getByRole("group", { name: /Funnel, % of people who entered/ }));
    expect(meant(path.getAllByText(/^30/)[0]!.closest("a")!)).toEqual([got(2)]);
    const stopped = path.getByRole("link", { name: "−70 70% dropped off after step 1, planned a trip" });
    expect(meant(stopped)).toEqual([lost(1)]);
    const key = within(screen.getByTestId("funnel-key"));
    expect(meant(key.getByRole("link", { name: "Create audience" }))).toEqual([lost(1)]);
    expect(key.getByText(/median 10 min/)).toBeTruthy();
    const instead = key.getByRole("link", { name: "the next hour" }).getAttribute("href")!;
    const query = new URLSearchParams(instead.split("?")[1]);
    expect(Object.fromEntries(query)).toMatchObject({ event: "trip_planned", within: "1 hours" });
    expect(JSON.parse(query.get("whom")!)).toEqual(lost(1));
    expect(key.getByRole("link", { name: "the same visit" }).getAttribute("href")).not.toContain("within");
  });

  it("adds, moves and leaves out steps by keyboard, all of it in the address", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "+ Add step" }));
    await waitFor(() => expect((last(PATH).body as { steps: object[] }).steps).toHaveLength(3));
    await fireEvent.keyDown(screen.getByRole("button", { name: /Step 1 of 3: move/ }), { key: "ArrowRight" });
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({
        steps: [{ event: "pass_bought" }, { event: "trip_planned" }, { event: "pass_bought" }],
      }),
    );
    await user.click(screen.getByRole("button", { name: "Remove step 3" }));
    await waitFor(() => expect((last(PATH).body as { steps: object[] }).steps).toHaveLength(2));
    expect(address.get("then")).toBe('[{"event":"trip_planned"}]');
  });

  it("takes a time for all steps, a single visit, and what must not lie in between", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Time limit"), "within");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ within: { days: 14 } }));
    await user.selectOptions(screen.getByLabelText("Time limit"), "visits");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ same_visit: true, counted: "visits" }));
    await user.click(screen.getByRole("button", { name: "Exclude events before this step" }));
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({
        steps: [{ event: "trip_planned" }, { event: "pass_bought", without: ["trip_planned"] }],
      }),
    );
    await user.click(screen.getByRole("button", { name: "over time" }));
    await waitFor(() => expect(last(PATH).body).toMatchObject({ over_time: true, step: "week" }));
  });

  it("lets go of what must not lie before a step that comes first, and of skipping the first and the last one", () => {
    const steps = [{ event: "a" }, { event: "b", without: ["c"], optional: true }, { event: "d" }];
    expect(settled(moved(steps, 1, 0))).toEqual([{ event: "b" }, { event: "a" }, { event: "d" }]);
    expect(settled(moved(steps, 1, 2))[2]).toEqual({ event: "b", without: ["c"] });
    expect(moved(steps, 1, 3)).toBe(steps);
  });

  it("draws how long it took where a step is there twice", async () => {
    const data = picture();
    const line = data.rows[0]!;
    const twice = { ...data, steps: ["ended a ride", "ended a ride", "ended a ride"] };
    twice.rows = [{ ...line, steps: [line.steps[0]!, line.steps[1]!, line.steps[1]!] }];
    await shown("?event=ride_ended&drawn=waits", twice);
    const key = within(screen.getByTestId("funnel-key"));
    expect(key.getAllByText("time until they ended a ride")).toHaveLength(2);
  });

  it("lets a step be skipped, and draws it on the way", async () => {
    const three = [{ event: "pass_bought" }, { event: "ride_ended" }];
    const data = picture();
    const line = data.rows[0]!;
    const further = { ...line, steps: [line.steps[0]!, { ...line.steps[1]!, lost: 5 }, line.steps[1]!] };
    const user = await shown(`?event=trip_planned&then=${encodeURIComponent(JSON.stringify(three))}`, {
      ...data,
      steps: [...data.steps, "ended a ride"],
      rows: [further],
    });
    await user.click(screen.getByRole("button", { name: "Make optional" }));
    const steps = [
      { event: "trip_planned" },
      { event: "pass_bought", optional: true },
      { event: "ride_ended" },
    ];
    await waitFor(() => expect(last(PATH).body).toMatchObject({ steps }));
    await user.click(screen.getByRole("button", { name: "Make step 2 required" }));
    await waitFor(() => expect(address.get("then")).toBe(JSON.stringify(three)));
  });

  it("draws how long it took, of one line step by step and of several before one step", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "time between steps" }));
    expect(await screen.findByRole("group", { name: /Time between steps/ })).toBeTruthy();
    const one = barsOf(picture(), null);
    expect(one.places).toEqual(["< 1 min", "1 min–1 day", "1 day +"]);
    expect(one.series.map(({ name, values }) => [name, values])).toEqual([
      ["time until they bought a pass", [0.1, 0.8, 0.1]],
    ]);
    const data = picture();
    const line = data.rows[0]!;
    const none = {
      ...line,
      name: "none",
      steps: line.steps.map((step) => ({ ...step, spread: null, wait: null })),
    };
    const two = barsOf({ ...data, rows: [line, none] }, 7);
    expect(two.series.map(({ name, values }) => [name, values[1]])).toEqual([
      ["all people", 0.8],
      ["none", null],
    ]);
  });
});
