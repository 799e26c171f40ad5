import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import type { Picture } from "./question";
import { edgesInSeconds, edgesOf } from "./question";
import Visits from "./Visits.svelte";

const PATH = "/analyses/visits";
type Row = Picture["rows"][number];
const window = { from: "2026-10-19", to: "2026-10-31" };
const visited = (more: object) => ({ visited: { count: { at_least: 1 }, window, ...more } }) as never;

function row(name: string, group: Partial<Row["group"]> = {}): Row {
  const figure = (total: number) => ({ values: [total / 2, total], total });
  return {
    name,
    group: { id: null, kind: "all", value: null, people_in: { all: [] }, ...group },
    figures: {
      ...{ visits: figure(90), people: figure(40), per_person: figure(2.25), days: figure(2) },
      ...{
        mean: figure(600),
        median: figure(480),
        p90: figure(1500),
        per_day: figure(660),
        single: figure(0.25),
      },
    },
    ...{
      lengths: [25, 0, 75],
      often: [20, 20],
      clock: Array(168)
        .fill(0)
        .map((_, hour) => (hour === 34 ? 90 : 0)),
    },
  };
}

async function shown(query: string, rows = [row("all people")]) {
  address.go(`${PATH}${query}`);
  const periods = [
    { from: "2026-10-19", to: "2026-10-25", complete: true },
    { from: "2026-10-26", to: "2026-10-31", complete: false },
  ];
  const picture: Picture = {
    ...{ ...window, step: "week", unit: "minutes", periods, edges: [60, 120], rows },
    ...{ lengths: ["one event", "under 1 min", "1 min or more"], often: ["1", "2 or more"] },
    cohorts: [{ from: "2026-10-19", to: "2026-10-25", people: 10, seconds: [120, 60, null] }],
  };
  const cells = (more: object[]) =>
    more.map((one) => ({ values: [], cells: { visits_0: visited(one), people_0: visited(one) } }));
  const tables = [
    tableOf(
      "lengths",
      ["length:text"],
      ...cells([{ events: { at_most: 1 } }, { length: { below: 60 } }, { length: { at_least: 60 } }]),
    ),
    tableOf("often", ["visits:text"], ...cells([{ count: { exactly: 1 } }, { count: { at_least: 2 } }])),
    tableOf(
      "clock",
      ["day:text"],
      ...cells(Array.from({ length: 168 }, (_, hour) => ({ number: { at_least: hour } }))),
    ),
  ];
  serve({ [`POST ${PATH}`]: answerOf("visits", picture, { finding: "People visit.", tables }) });
  render(Visits);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("visits", () => {
  it("count those of a year, tell them in minutes, and change what is asked in the address", async () => {
    const user = await shown("");
    expect(last(PATH).body).toMatchObject({ step: "week", unit: "minutes", audiences: [] });
    expect(last(PATH).body).not.toHaveProperty("to");
    expect(screen.getByTestId("visits-key").textContent).toMatch(
      /all people\s*90.*90 visits by\s+40 people, mean 10 min/s,
    );
    await user.selectOptions(
      screen.getByLabelText("Measure"),
      "Median visit length",
    );
    expect(address.get("figure")).toBe("median");
    expect(within(screen.getByTestId("visits-key")).getByText("8 min")).toBeTruthy();
    await user.selectOptions(screen.getByLabelText("Unit of time"), "hours");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ unit: "hours" }));
  });

  it("tell them apart by newness, by what began them, by who did something, or by values, one at a time", async () => {
    const user = await shown("");
    const by = screen.getByLabelText("Split by");
    await user.selectOptions(by, "first vs later visits");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ newness: true }));
    await user.selectOptions(by, "did vs did not do an event");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by_doing: { event: "ride_ended" } }));
    await user.selectOptions(by, "plan (at the time)");
    await user.selectOptions(screen.getByLabelText("Order of values"), "time spent");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" }, order: "time" }));
    expect(last(PATH).body).not.toHaveProperty("by_doing");
    address.go(`${PATH}?by=first:distance_km`);
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by_first: "distance_km" }));
    expect(last(PATH).body).not.toHaveProperty("order");
    address.go(`${PATH}?by=attribute:plan&most=sum:pass_bought:price`);
    const order_by = { event: "pass_bought", property: "price" };
    await waitFor(() => expect(last(PATH).body).toMatchObject({ order: "sum", order_by }));
  });

  it("take bars of lengths that rise in the unit they are told in", async () => {
    const user = await shown("?shown=length");
    const edges = screen.getByLabelText<HTMLInputElement>("Buckets (minutes)");
    expect(edges.value).toBe("1, 2");
    await user.clear(edges);
    await user.type(edges, "0.5, 3, 20");
    await user.tab();
    await waitFor(() => expect(last(PATH).body).toMatchObject({ edges: [30, 180, 1200] }));
    await user.selectOptions(screen.getByLabelText("Unit of time"), "hours");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ unit: "hours" }));
    expect(last(PATH).body).not.toHaveProperty("edges");
    expect([edgesOf("3,2"), edgesOf("0"), edgesOf("a"), edgesInSeconds([0.001, 0.01], "seconds")]).toEqual([
      ...[null, null, null],
      [1],
    ]);
  });

  it("open the people behind a length, a number of visits and an hour of the week", async () => {
    const user = await shown("?shown=length");
    const opened = (name: string) => meant(screen.getByRole("link", { name }));
    expect(opened("all people, one event: 25%")).toEqual([visited({ events: { at_most: 1 } })]);
    await user.click(screen.getByRole("button", { name: "by visits per person" }));
    expect(opened("all people, 2× or more: 50%")).toEqual([visited({ count: { at_least: 2 } })]);
    await user.click(screen.getByRole("button", { name: "by hour of the week" }));
    const hour = screen.getByRole("link", { name: "Tuesday 10:00 to 11:00: 90 visits" });
    expect(meant(hour)).toEqual([visited({ number: { at_least: 34 } })]);
    hour.focus();
    await user.keyboard("{ArrowDown}{ArrowRight}");
    expect(document.activeElement?.getAttribute("aria-label")).toBe("Wednesday 11:00 to 12:00: 0 visits");
  });

  it("draw time since the first day, and the hours of one group at a time", async () => {
    const user = await shown("?shown=since");
    expect(screen.getByRole("group", { name: /by days since first seen/ })).toBeTruthy();
    address.go(`${PATH}?shown=clock&by=new`);
    const rows = [
      row("first visits", { kind: "value", value: "first visits" }),
      row("later visits", { kind: "value", value: "later visits" }),
    ];
    document.body.replaceChildren();
    await shown("?shown=clock&by=new", rows);
    await user.click(screen.getByRole("button", { name: "later visits" }));
    expect(screen.getByRole("group", { name: /hour of the week, later visits/ })).toBeTruthy();
  });
});
