import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { user } from "../../testing/editing";
import { audience } from "../../testing/examples";
import { last, serve } from "../../testing/server";
import type { Node } from "../definition";
import Phrase from "./Phrase.svelte";

const did: Node = {
  did: {
    ...{ event: "ride_ended", count: { at_least: 1 }, window: { last_days: 30 } },
    where: [
      { property: "distance_km", compare: "greater", value: 5 },
      { property: "minutes", compare: "less", value: 9 },
    ],
  },
};

beforeEach(() => serve({ "GET /catalogue/values": { values: [{ value: "8", count: 3 }] } }));

/** Opens one phrase of a condition; tells what was made of the condition. */
async function opened(slot: string, path: string, node: Node, about: object | null = null) {
  const change = vi.fn();
  render(Phrase, {
    part: { text: "a phrase", ink: "what", slot, path, about, raw: null },
    place: "all[0]",
    node,
    change,
  });
  const trigger = screen.getByRole("button", { name: /: a phrase$/ });
  await user.click(trigger);
  return {
    change,
    made: () => change.mock.calls.at(-1)?.[0] as unknown,
    panel: within(await screen.findByRole("dialog")),
  };
}
const option = (panel: ReturnType<typeof within>, name: RegExp) => panel.findByRole("option", { name });

describe("a phrase of a sentence", () => {
  it("is only text where its piece is gone", () => {
    render(Phrase, {
      part: { text: "gone", ink: null, slot: "count", path: "did", about: null, raw: null },
      place: "all[0]",
      node: { profile_type: { is: ["visitor"] } },
      change: vi.fn(),
    });
    expect(screen.getByText("gone").tagName).toBe("SPAN");
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("chooses another attribute with what is likely asked of it", async () => {
    const node: Node = { attribute: { name: "age", compare: "greater", value: 3 } };
    const { made, panel } = await opened("attribute", "attribute", node);
    await user.click(await option(panel, /plan/));
    await waitFor(() => expect(made()).toEqual({ attribute: { name: "plan", compare: "is", value: "8" } }));
  });

  it("chooses which attribute changed, keeping when", async () => {
    const node: Node = {
      changed: { name: "age", window: { last_days: 9 }, to: { compare: "is", value: 3 } },
    };
    const { made, panel } = await opened("attribute", "changed", node);
    await user.click(await option(panel, /plan/));
    await waitFor(() => expect(made()).toEqual({ changed: { name: "plan", window: { last_days: 9 } } }));
  });

  it("takes one condition on an event out of several, or sets another beside it", async () => {
    const { change, made, panel } = await opened("property", "did.where[0]", did);
    await user.click(panel.getByRole("button", { name: "Remove this condition" }));
    expect(made()).toEqual({ did: { ...did.did, where: [did.did!.where![1]] } });
    await user.click(screen.getByRole("button", { name: /: a phrase$/ }));
    await user.click(await screen.findByRole("button", { name: "or another condition …" }));
    await waitFor(() => expect(change).toHaveBeenCalledTimes(2));
    expect(made()).toMatchObject({
      did: { where: [{ any: [did.did!.where![0], { property: "distance_km" }] }, did.did!.where![1]] },
    });
  });

  it("asks of an event what an attribute of the person was at that time", async () => {
    const { made, panel } = await opened("property", "did.where[0]", did);
    await user.click(await option(panel, /plan at that time/));
    await waitFor(() =>
      expect(made()).toEqual({
        did: {
          ...did.did,
          where: [{ attribute: "plan", compare: "is", value: "8" }, did.did!.where![1]],
        },
      }),
    );
  });

  it("asks of an event how far the person had got by then", async () => {
    const { made, panel } = await opened("property", "did.where[0]", did);
    await user.click(await option(panel, /minutes spent so far/));
    const far = { so_far: "minutes_spent", compare: "at_least", value: 1 };
    await waitFor(() => expect(made()).toEqual({ did: { ...did.did, where: [far, did.did!.where![1]] } }));
    await user.click(screen.getByRole("button", { name: /: a phrase$/ }));
    const again = within(await screen.findByRole("dialog"));
    await user.click(await option(again, /highest distance.* so far/));
    await waitFor(() =>
      expect(made()).toMatchObject({
        did: { where: [{ so_far: { event: "ride_ended", property: "distance_km" } }, {}] },
      }),
    );
  });

  it("adds to alternatives that are there already", async () => {
    const any = [...did.did!.where!];
    const { made, panel } = await opened("property", "did.where[0].any[1]", {
      did: { ...did.did!, where: [{ any }] },
    } as Node);
    await user.click(panel.getByRole("button", { name: "or another condition …" }));
    await waitFor(() =>
      expect(made()).toMatchObject({ did: { where: [{ any: [...any, { property: "distance_km" }] }] } }),
    );
  });

  it("turns the first time into the last", async () => {
    const { made, panel } = await opened("moment", "first", {
      first: { event: "ride_ended", window: { last_days: 5 } },
    });
    await user.click(await option(panel, /the last time/));
    expect(made()).toEqual({ last: { event: "ride_ended", window: { last_days: 5 } } });
  });

  it("bounds a change by the values it came from, and lets go of them", async () => {
    const { change, made, panel } = await opened("changed", "changed", {
      changed: { name: "plan", window: { last_days: 9 }, to: { compare: "is", value: "8" } },
    });
    await user.click(panel.getByLabelText(/only from/));
    await waitFor(() => expect(change).toHaveBeenCalledTimes(1));
    expect(made()).toMatchObject({ changed: { from: { compare: "is", value: "8" }, to: { compare: "is" } } });
    await user.click(panel.getByLabelText(/only to/));
    await waitFor(() => expect(change).toHaveBeenCalledTimes(2));
    expect(made()).toEqual({ changed: { name: "plan", window: { last_days: 9 } } });
  });

  it.each([
    [
      "channels",
      "reachable",
      { reachable: { by: ["email"] } },
      "SMS",
      { reachable: { by: ["email", "sms"] } },
    ],
    [
      "types",
      "profile_type",
      { profile_type: { is: ["visitor"] } },
      /customer/,
      { profile_type: { is: ["customer", "visitor"] } },
    ],
  ] as const)("ticks several: %s", async (slot, path, node, label, expected) => {
    const { made, panel } = await opened(slot, path, node as unknown as Node);
    await user.click(panel.getByLabelText(label));
    const chosen = JSON.stringify(made()).match(/\w+/g)!.sort();
    expect(chosen).toEqual(JSON.stringify(expected).match(/\w+/g)!.sort());
  });

  it("takes a pasted list, each identifier once", async () => {
    const { made, panel } = await opened("listed", "listed", { listed: { by: "customer", values: ["F1"] } });
    await user.clear(panel.getByLabelText(/One per line/));
    await user.click(panel.getByLabelText(/One per line/));
    await user.paste('F2, F3\nF2;"F4"\n\n');
    await user.click(panel.getByRole("button", { name: "Use 3 identifiers" }));
    expect(made()).toEqual({ listed: { by: "customer", values: ["F2", "F3", "F4"] } });
  });

  it("keeps a list under a name as an audience, and asks who is in that", async () => {
    serve({ "POST /audiences": audience(7, "Winners", { all: [] }) });
    const { made, panel } = await opened("listed", "listed", { listed: { by: "customer", values: ["F1"] } });
    expect(panel.getByRole("button", { name: "Save" })).toHaveProperty("disabled", true);
    await user.type(panel.getByLabelText("Name of the list"), " Winners {Enter}");
    await waitFor(() => expect(made()).toEqual({ audience: { id: 7 } }));
    const listed = { by: "customer", values: ["F1"] };
    expect(last("/audiences").body).toEqual({ name: "Winners", definition: { all: [{ listed }] } });
  });

  it("says how long a visit lasts", async () => {
    const node: Node = { visit: { all: [{ event: "ride_ended" }], window: { last_days: 5 } } };
    const { panel } = await opened("visit", "visit", node);
    expect(panel.getByText(/in one visit \(ends after 30\s+minutes without an event\)/)).toBeTruthy();
  });

  it("counts and measures inside a visit by times alone", async () => {
    const all = [{ event: "ride_ended", count: { at_least: 2 } }, { event: "pass_bought" }];
    const node: Node = { visit: { all, window: { last_days: 5 } } };
    const { made, panel } = await opened("count", "visit.all[0]", node);
    expect(panel.queryByLabelText("Counted by")).toBeNull();
    await user.selectOptions(panel.getByLabelText("How often"), "never");
    const made_of = (first: object) => ({ visit: { ...node.visit, all: [first, all[1]] } });
    expect(made()).toEqual(made_of({ event: "ride_ended", count: { exactly: 0 } }));
    await user.selectOptions(panel.getByLabelText("How often"), "by a property …");
    const measure = { of: "distance_km", take: "sum", compare: "at_least", value: 1 };
    await waitFor(() => expect(made()).toEqual(made_of({ event: "ride_ended", measure })));
  });

  it("leaves out what was not to follow", async () => {
    const order = {
      steps: [{ event: "ride_ended" }, { event: "pass_bought" }],
      then_not: { event: "message_opened", within: { days: 3 } },
    };
    const { made, panel } = await opened("within", "order.then_not", {
      order: { ...order, window: { ever: true } },
    } as never);
    await user.click(panel.getByRole("button", { name: "Remove" }));
    expect(made()).toEqual({ order: { steps: order.steps, window: { ever: true } } });
  });
});
