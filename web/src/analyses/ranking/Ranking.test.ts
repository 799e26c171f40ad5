import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, Refused, serve } from "../../testing/server";
import { workspace } from "../../lib/workspace.svelte";
import Ranking from "./Ranking.svelte";

const PATH = "/analyses/ranking";
const did = (event: string) => ({ did: { event, where: [], count: { at_least: 1 } } }) as never;

function row(event: string, people: number, times: number) {
  return {
    ...{ event, name: event.replace("_", " "), did: did(event), people, times, share: 0.5, per_person: 2 },
    ...{ before: 10, change: 0.1, trend: [1, 2, 3], audiences: [] },
  };
}

async function shown(query = "") {
  address.go(`/analyses/ranking${query}`);
  const rows = [row("ride_ended", 40, 90), row("pass_bought", 12, 0)];
  const picture = {
    ...{ from: "2026-10-02", to: "2026-10-31", before: { from: "2026-09-02", to: "2026-10-01" } },
    ...{ counted_by: "people" as const, active: 80, ids: [], names: [], periods: [], rows },
  };
  serve({ [`POST ${PATH}`]: answerOf("ranking", picture, { finding: "Rides come first." }) });
  render(Ranking);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("the ranking", () => {
  it("is of the last 30 days, and opens into people", async () => {
    await shown("?compare=4,5-");
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", from: "2026-10-02", counted_by: "people", audiences: [4] },
    });
    expect(meant(screen.getByRole("link", { name: "ride ended: 40" }))).toEqual([did("ride_ended")]);
    expect(screen.getByText(/Change vs 2 Sep 2026 to 1 Oct 2026/)).toBeTruthy();
  });

  it("counts times instead, and draws nothing where nobody did it", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Counted by"), "times");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ counted_by: "times" }));
    expect(screen.getByRole("link", { name: "ride ended: 90" })).toBeTruthy();
    expect(screen.queryByRole("link", { name: /pass bought: / })).toBeNull();
  });

  it("leaves out events for now, keeps that in the address, and goes on to the trend of one", async () => {
    const user = await shown("?as_of=2026-10-30");
    const key = within(screen.getByTestId("ranking-key"));
    expect(key.getByRole("link", { name: "pass bought Trend over time" }).getAttribute("href")).toBe(
      "/analyses/trends?as_of=2026-10-30&event=pass_bought&from=2026-10-01",
    );
    await user.click(key.getByRole("button", { name: "Hide ride ended" }));
    expect(address.get("leave")).toBe("ride_ended");
    expect(screen.queryByRole("link", { name: /ride ended: / })).toBeNull();
    await user.click(key.getByRole("button", { name: "Show all" }));
    expect(screen.getByRole("link", { name: "ride ended: 40" })).toBeTruthy();
  });

  it("hides what is left out for good, and says what is refused", async () => {
    const user = await shown("?leave=ride_ended");
    const { id } = workspace.catalogue!.event_types.find(({ name }) => name === "ride_ended")!;
    serve({ [`PUT /catalogue/types/${id}`]: new Refused(409, "Somebody else is at it.") });
    await user.click(screen.getByRole("button", { name: "Hide everywhere" }));
    expect(await screen.findByText("Somebody else is at it.")).toBeTruthy();
    expect(last(`/catalogue/types/${id}`).body).toEqual({ hidden: true });
  });
});
