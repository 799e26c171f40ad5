import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { workspace } from "../lib/workspace.svelte";
import type { Schemas } from "../lib/api/client";
import { last, serve } from "../testing/server";
import LiveEvents from "./LiveEvents.svelte";

/** A stream of the server that the spec speaks for. */
class Stream {
  static all: Stream[] = [];
  onopen = () => {};
  onerror = () => {};
  onmessage = (message: { data: string }) => void message;
  closed = false;
  readonly url: string;

  constructor(url: string) {
    this.url = url;
    Stream.all.push(this);
  }

  close() {
    this.closed = true;
  }

  async tell(...rows: object[]) {
    this.onmessage({ data: JSON.stringify(rows) });
    await Promise.resolve();
  }
}

const received = (id: number, more: object = {}) => ({
  ...{
    key: `event-${id}`,
    received_at: "2026-10-31T08:00:05.000000Z",
    occurred_at: "2026-10-31T08:00:00.000000Z",
  },
  ...{ source: "web", type: `visit ${id}`, subject: "visitor:v1", profile_id: 9, outcome: "stored" },
  ...{ told: null, reason: null, payload: null, contents: { page: "/fares" }, ...more },
});
const types = () =>
  within(screen.getByTestId("live-events"))
    .getAllByRole("row")
    .slice(1)
    .map((row) => row.children[2]!.textContent);

const source: Schemas["Source"] = {
  ...{ id: 1, name: "web", description: "", allowed_types: null, events_per_minute: null },
  ...{ created_at: "2026-10-01T08:00:00Z", keys: [] },
};

beforeEach(() => {
  Stream.all = [];
  globalThis.EventSource = Stream as never;
  workspace.info = { ...workspace.info!, ready: false };
  serve({
    "GET /sources": { collector: "http://127.0.0.1:4271", sources: [source] },
    "GET /live-events": { cursor: "5-2-0", rows: [received(5)] },
  });
});

async function shown() {
  render(LiveEvents);
  await screen.findByTestId("live-events");
  await waitFor(() => expect(Stream.all).toHaveLength(1));
  Stream.all[0]!.onopen();
  await waitFor(() => expect(screen.getByTestId("live").textContent).toBe("live"));
  return userEvent.setup();
}

describe("what comes in", () => {
  it("goes on from what was read, newest first, and shows nothing twice after a break", async () => {
    await shown();
    expect(Stream.all[0]!.url).toBe("/api/live-events/live?after=5-2-0");
    await Stream.all[0]!.tell(received(7), received(6));
    await waitFor(() => expect(types()).toEqual(["visit 7", "visit 6", "visit 5"]));
    Stream.all[0]!.onerror();
    await waitFor(() => expect(screen.getByTestId("live").textContent).toBe("connecting…"));
    Stream.all[0]!.onopen();
    await Stream.all[0]!.tell(received(8), received(7));
    await waitFor(() => expect(types()).toEqual(["visit 8", "visit 7", "visit 6", "visit 5"]));
  });

  it("can be held, and goes on with what has come meanwhile", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "Pause" }));
    await Stream.all[0]!.tell(received(6));
    await Stream.all[0]!.tell(received(7), received(6));
    expect(types()).toEqual(["visit 5"]);
    await user.click(await screen.findByRole("button", { name: "Resume (2 events waiting)" }));
    expect(types()).toEqual(["visit 7", "visit 6", "visit 5"]);
  });

  it("is narrowed by what is asked for, in the address, from a stream of its own", async () => {
    const user = await shown();
    serve({ "GET /live-events": { cursor: "5-2-1", rows: [] } });
    await user.selectOptions(screen.getByLabelText("Outcome"), "rejected");
    await user.type(screen.getByLabelText("Identifier"), "customer:7{Tab}");
    await waitFor(() =>
      expect(last("/live-events").query).toEqual({ outcome: "refused", identifier: "customer:7" }),
    );
    expect(await screen.findByText(/No events match/)).toBeTruthy();
    await waitFor(() => expect(Stream.all.at(-1)!.url).toContain("outcome=refused"));
    expect(Stream.all.map(({ closed }) => closed).slice(0, -1)).not.toContain(false);
    expect(address.get("outcome")).toBe("refused");
  });

  it("says in words what is received besides events, and narrows to it by that name", async () => {
    const user = await shown();
    const link = { type: "estrel.link", contents: {}, told: "The same person as customer:7, as was known." };
    await Stream.all[0]!.tell(
      received(7, link),
      received(6, { type: "estrel.attributes", contents: { plan: "a" } }),
    );
    await waitFor(() => expect(types()).toEqual(["identifiers linked", "attributes changed", "visit 5"]));
    expect(screen.getByText(link.told)).toBeTruthy();
    expect(screen.getByTestId("live-events").textContent).not.toMatch(/estrel\./);
    await user.selectOptions(screen.getByLabelText("Event type"), "consent changed");
    await waitFor(() => expect(last("/live-events").query).toEqual({ type: "estrel.consent" }));
  });

  it("tells how late something is, and why it was refused", async () => {
    await shown();
    const late = { occurred_at: "2026-10-31T05:50:00.000000Z" };
    const refused = {
      type: "",
      source: null,
      outcome: "refused",
      reason: "The time is missing.",
      payload: '{"id":1}',
      profile_id: null,
    };
    await Stream.all[0]!.tell(received(7, refused), received(6, late));
    expect(await screen.findByText("2 h 10 min late")).toBeTruthy();
    expect(screen.getByText("Rejected: The time is missing.")).toBeTruthy();
    expect(screen.getByText('{"id":1}')).toBeTruthy();
  });
});
