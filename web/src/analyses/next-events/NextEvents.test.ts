import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import NextEvents from "./NextEvents.svelte";

const PATH = "/analyses/next-events";
type Branch = Schemas["NextBranch"];
const way = (...events: string[]) => ({ order: { steps: events.map((event) => ({ event })) } }) as never;

function branch(event: string, times: number, more: Partial<Branch> = {}): Branch {
  return {
    ...{ event, name: event.replace("_", " "), times, share: times / 100, people: times / 2, wait: 300 },
    ...{ did: way("ride_ended", event), ended: 0, other: null, branches: [], audiences: [] },
    ...more,
  };
}

async function shown(query = "", compared: { people: number; share: number }[] = []) {
  address.go(`/analyses/next-events${query}`);
  const deeper = branch("message_opened", 20, { did: way("ride_ended", "pass_bought", "message_opened") });
  const picture = {
    ...{
      from: "2026-08-03",
      to: "2026-10-31",
      direction: "after" as const,
      within: null,
      depth: 2,
      among: null,
      who: query.includes("whom") ? "People who are new" : null,
    },
    ...{ name: "ended a ride", times: 100, people: 40, ended: 30, other: { types: 3, times: 10 } },
    ...{ did: way("ride_ended"), ids: compared.map(() => 4), names: compared.map(() => "Commuters") },
    branches: [branch("pass_bought", 60, { ended: 40, branches: [deeper], audiences: compared })],
  };
  serve({ [`POST ${PATH}`]: answerOf("next-events", picture, { finding: "Most bought a pass." }) });
  render(NextEvents);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("next events", () => {
  it("looks two events on in the same visit, and every strip opens into its people", async () => {
    await shown("?event=ride_ended&compare=4");
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", event: { event: "ride_ended" }, within: null, depth: 2, from: "2026-08-03" },
      ...{ audiences: [4], direction: "after", among: null },
    });
    const picture = within(screen.getByRole("group", { name: /Events right after/ }));
    expect(meant(picture.getByRole("link", { name: /: ended a ride: 100 times/ }))).toEqual([
      way("ride_ended"),
    ]);
    expect(meant(picture.getByRole("link", { name: /: pass bought: 60 times/ }))).toEqual([
      way("ride_ended", "pass_bought"),
    ]);
    expect(meant(picture.getByRole("link", { name: /: message opened: 20 times/ }))).toEqual([
      way("ride_ended", "pass_bought", "message_opened"),
    ]);
    expect(screen.getByTestId("next-key").textContent!.replace(/\s+/g, " ")).toMatch(
      /pass bought 60% 30 median 5 min 3 other events 10× no further event 30%/,
    );
  });

  it("looks at some people alone where the address says whom, until they are let go of", async () => {
    const whom = { lifecycle: { is: ["new"] } };
    const user = await shown(`?event=ride_ended&whom=${encodeURIComponent(JSON.stringify(whom))}`);
    expect(last(PATH).body).toMatchObject({ who: whom });
    expect(screen.getByText(/, only\s+people who are new/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Remove filter" }));
    await waitFor(() => expect(last(PATH).body).not.toHaveProperty("Show people"));
  });

  it("looks before, within a time, and further, all of it in the address", async () => {
    const user = await shown("?event=ride_ended");
    await user.selectOptions(screen.getByLabelText("After or before"), "before");
    await user.selectOptions(screen.getByLabelText("Time limit"), "within");
    await user.selectOptions(screen.getByLabelText("Unit"), "hours");
    await user.selectOptions(screen.getByLabelText("Depth"), "4 steps");
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ direction: "before", within: { hours: 7 }, depth: 4 }),
    );
    expect(address.get("within")).toBe("7 hours");
  });

  it("looks at chosen events only, and at anything again", async () => {
    const user = await shown("?event=ride_ended&among=pass_bought");
    expect(last(PATH).body).toMatchObject({ among: ["pass_bought"] });
    await user.click(screen.getByRole("button", { name: "What can come next: pass bought" }));
    await user.click(await screen.findByRole("option", { name: "anything" }));
    await waitFor(() => expect(last(PATH).body).toMatchObject({ among: null }));
    expect(address.get("among")).toBeNull();
  });

  it("tells what share of each audience went that way, and opens its people", async () => {
    await shown("?event=ride_ended&compare=4", [{ people: 12, share: 0.8 }]);
    const link = within(screen.getByTestId("next-key")).getByRole("link", { name: "A 80%" });
    expect(link.getAttribute("title")).toBe("Commuters: 12 people");
    expect(meant(link)).toEqual([{ audience: { id: 4 } }, way("ride_ended", "pass_bought")]);
  });

  it("goes on from what came next", async () => {
    await shown("?event=ride_ended&depth=3");
    const link = within(screen.getByTestId("next-key")).getByRole("link", { name: "pass bought" });
    expect(link.getAttribute("href")).toBe("/analyses/next-events?event=pass_bought&depth=3");
  });

  it("leaves out a time that makes no sense", async () => {
    await shown("?event=ride_ended&within=0+days");
    expect(last(PATH).body).toMatchObject({ within: null });
    expect(screen.getByText(/could not be read and was ignored: within/)).toBeTruthy();
  });
});
