import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { sender, type Options } from "./sender";

type Sent = { id: string; type: string; subject: string; data: object };
type Told = { events: Sent[]; authorization: string; keepalive: boolean };
let told: Told[];
/** What the collector answers next; the last of them again and again. */
let answers: (Response | "offline")[];

beforeEach(() => {
  vi.useFakeTimers({ now: new Date("2026-05-01T10:00:00Z") });
  vi.spyOn(Math, "random").mockReturnValue(0.5);
  localStorage.clear();
  told = [];
  answers = [new Response("{}")];
  vi.stubGlobal("fetch", async (_: string, init: RequestInit) => {
    const { authorization } = init.headers as Record<string, string>;
    const events = JSON.parse(String(init.body)) as Sent[];
    const answer = answers.length > 1 ? answers.shift()! : answers[0]!;
    if (answer === "offline") throw new TypeError("Failed to fetch");
    told.push({ events, authorization: authorization!, keepalive: init.keepalive ?? false });
    return answer.clone();
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const begin = (options: Partial<Options> = {}) =>
  sender({ collector: "https://collect.example/events", key: "ek_1", source: "web", ...options });
const types = () => told.flatMap(({ events }) => events.map(({ type }) => type));
const waiting = () => Object.keys(localStorage).filter((key) => key.startsWith("estrel.event."));

describe("the sender", () => {
  it("gathers events for a moment and sends them in their order, with the key of the source", async () => {
    const estrel = begin();
    estrel.did("page_viewed", { path: "/" });
    estrel.did("trip_planned");
    await vi.advanceTimersByTimeAsync(1999);
    expect(told).toEqual([]);
    await vi.advanceTimersByTimeAsync(1);
    expect(types()).toEqual(["page_viewed", "trip_planned"]);
    expect(told[0]).toMatchObject({ authorization: "Bearer ek_1", keepalive: false });
    expect(told[0]!.events[0]).toMatchObject({
      ...{ specversion: "1.0", source: "web", time: "2026-05-01T10:00:00.000Z", data: { path: "/" } },
      subject: `visitor:${estrel.visitor}`,
    });
    expect(new Set(told[0]!.events.map(({ id }) => id)).size).toBe(2);
    expect(waiting()).toEqual([]);
  });

  it("keeps what it could not send, over reloads too, and waits longer after every failure", async () => {
    answers = [
      "offline",
      new Response("", { status: 503 }),
      new Response("", { status: 429, headers: { "retry-after": "30" } }),
      new Response("{}"),
    ];
    const first = begin();
    first.did("fault_reported");
    await vi.advanceTimersByTimeAsync(2000);
    expect(waiting()).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(1000);
    expect(told).toHaveLength(1);
    await vi.advanceTimersByTimeAsync(2000);
    expect(told).toHaveLength(2);
    await vi.advanceTimersByTimeAsync(29_999);
    expect(told).toHaveLength(2);
    const { id } = told[0]!.events[0]!;
    begin(); // the page is loaded again
    await vi.advanceTimersByTimeAsync(0);
    expect(told).toHaveLength(3);
    expect(told.map(({ events }) => events[0]!.id)).toEqual([id, id, id]);
    expect(waiting()).toEqual([]);
  });

  it("sends at once when there is much, when the page is left, and when the network is back", async () => {
    const estrel = begin();
    for (let number = 0; number < 100; number++) estrel.did(`n${number}`);
    await vi.advanceTimersByTimeAsync(0);
    expect(told[0]!.events.map(({ type }) => type)).toEqual(Array.from({ length: 100 }, (_, at) => `n${at}`));
    estrel.did("left");
    dispatchEvent(new Event("pagehide"));
    await vi.advanceTimersByTimeAsync(0);
    expect(told[1]).toMatchObject({ keepalive: true, events: [{ type: "left" }] });
    answers = ["offline", new Response("{}")];
    estrel.did("under_the_bridge");
    await vi.advanceTimersByTimeAsync(2000);
    dispatchEvent(new Event("online"));
    await vi.advanceTimersByTimeAsync(0);
    expect(types().at(-1)).toBe("under_the_bridge");
  });

  it("gives up the oldest before the storage is full", async () => {
    answers = ["offline"];
    const estrel = begin();
    for (let number = 0; number < 1010; number++) estrel.did(`n${number}`);
    expect(waiting()).toHaveLength(1000);
    answers = [new Response("{}")];
    await vi.advanceTimersByTimeAsync(120_000);
    expect(types()).toHaveLength(1000);
    expect([types()[0], types().at(-1)]).toEqual(["n10", "n1009"]);
  });

  it("links a visitor to a customer once, and speaks for the visitor again after signing out", async () => {
    const estrel = begin();
    estrel.signedIn("customer:7");
    estrel.signedIn("customer:7");
    estrel.is({ plan: "yearly" });
    estrel.signedOut();
    estrel.did("page_viewed");
    await estrel.flush();
    const visitor = `visitor:${estrel.visitor}`;
    expect(told[0]!.events.map(({ type, subject }) => [type, subject])).toEqual([
      ["estrel.link", visitor],
      ["estrel.attributes", "customer:7"],
      ["page_viewed", visitor],
    ]);
    expect(told[0]!.events[0]!.data).toEqual({ same_as: "customer:7" });
  });

  it("leaves nothing of who asks not to be tracked, unless told otherwise", async () => {
    const before = begin();
    before.did("page_viewed");
    before.signedIn("customer:7");
    await before.flush();
    vi.stubGlobal("navigator", { doNotTrack: "1" });
    const estrel = begin();
    expect(localStorage).toHaveLength(0);
    estrel.did("page_viewed");
    estrel.signedIn("customer:7");
    await vi.advanceTimersByTimeAsync(10_000);
    expect([estrel.visitor, localStorage.length, told.length]).toEqual(["", 0, 1]);
    begin({ respectDoNotTrack: false }).did("page_viewed");
    await vi.advanceTimersByTimeAsync(2000);
    expect(told).toHaveLength(2);
  });

  it("tells why something was refused, and does not send it again", async () => {
    const onRefused = vi.fn();
    answers = [
      Response.json({ events: [{ outcome: "stored" }, { outcome: "refused", reason: "has no time" }] }),
    ];
    const estrel = begin({ onRefused });
    estrel.did("a");
    estrel.did("b");
    await estrel.flush();
    expect(onRefused).toHaveBeenCalledWith(["has no time"]);
    answers = [Response.json({ detail: "too large" }, { status: 413 })];
    estrel.did("c");
    await estrel.flush();
    expect(onRefused).toHaveBeenLastCalledWith(["too large"]);
    expect(waiting()).toEqual([]);
  });
});
