import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf, tableOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Experience from "./Experience.svelte";
import type { Picture } from "./question";

const PATH = "/analyses/experience";
const visited = (more: object) => ({ visited: { window: { ever: true }, ...more } }) as never;
const did = visited({ number: { at_least: 1, at_most: 1 }, doing: [{ event: "ride_ended", where: [] }] });

async function shown(query: string) {
  address.go(`${PATH}${query}`);
  const line = (series: number, name: string): Picture["rows"][number] => ({
    ...{ series, name, group: { id: null, kind: "all", value: null, people_in: { all: [] } } },
    ...{ reached: [100, 40], times: [50, 80], people: [50, 30], per_person: [0.5, 2] },
    ...{ rates: [0.5, 0.25], shares: [0.75, 0.4] },
    intervals: { per_person: [null, null], rates: [[0.4, 0.6], null], shares: [null, null] },
  });
  const picture: Picture = {
    along: "visit",
    places: [
      { from: 1, to: 1, said: "visit 1" },
      { from: 2, to: null, said: "visit 2 or later" },
    ],
    rows: [line(0, "ended a ride"), line(1, "bought a pass")],
  };
  const table = tableOf("places", ["place:text"], {
    values: ["visit 1"],
    cells: { people_0: did, reached_0: visited({ count: { at_least: 1 } }) },
  });
  serve({
    [`POST ${PATH}`]: answerOf("experience", picture, { finding: "They ride less.", tables: [table] }),
  });
  render(Experience);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("experience", () => {
  it("begins with the two most frequent events by number of visit, and opens who got that far and who did it", async () => {
    const user = await shown("");
    const { series, along } = last(PATH).body as { series: object[]; along: string };
    expect([series.length, along]).toEqual([2, "visit"]);
    expect(within(screen.getByTestId("experience-key")).getAllByText("0.500 → 0.250").length).toBe(2);
    const reached = screen.getByRole("link", { name: "reached, 1: 100" });
    expect(meant(reached)).toEqual([visited({ count: { at_least: 1 } })]);
    await user.selectOptions(screen.getByLabelText("Measure"), "share of events");
    expect(meant(screen.getByRole("link", { name: "ended a ride, 1: 75%" }))).toEqual([did]);
  });

  it("goes along days, time or a level, of people first seen on or after a day, all of it in the address", async () => {
    const user = await shown("?event=ride_ended");
    const along = screen.getByLabelText("Stage");
    await user.selectOptions(along, "total minutes spent");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ along: "time", series: [{ event: "ride_ended" }] }),
    );
    expect(screen.queryByRole("option", { name: /times per visit/ })).toBeNull();
    await user.selectOptions(along, "highest value so far of");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ level: { event: "ride_ended", property: "distance_km" } }),
    );
    await user.selectOptions(screen.getByLabelText("Among"), "people first seen on or after");
    await waitFor(() => expect(last(PATH).body).toHaveProperty("from"));
    const field = screen.getByLabelText("Stage boundaries");
    await user.clear(field);
    await user.type(field, "0, 5, 20{Tab}");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ edges: [0, 5, 20] }));
  });
});
