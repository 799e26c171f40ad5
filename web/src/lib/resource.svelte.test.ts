import { flushSync } from "svelte";
import { describe, expect, it } from "vitest";
import { destination } from "../testing/examples";
import { Refused, serve } from "../testing/server";
import { answer, api } from "./api/client";
import { Kept } from "./kept.svelte";
import { Resource } from "./resource.svelte";
import { session } from "./session.svelte";

/** Something loaded whose answers are given by hand. */
function held() {
  const asks: { signal: AbortSignal; give: (value: string) => void; fail: (error: Error) => void }[] = [];
  let resource!: Resource<string>;
  const stop = $effect.root(() => {
    resource = new Resource((signal) => new Promise((give, fail) => asks.push({ signal, give, fail })));
  });
  flushSync();
  return { asks, resource, stop };
}

const settled = () => new Promise((resolve) => setTimeout(resolve));

describe("something loaded", () => {
  it("keeps the answer before while it asks again, takes the newest answer only, and asks nothing once it is not shown", async () => {
    const { asks, resource, stop } = held();
    expect(resource.loading).toBe(true);
    asks[0]!.give("first");
    await settled();
    expect([resource.data, resource.loading]).toEqual(["first", false]);
    void resource.reload();
    void resource.reload();
    expect([resource.data, resource.loading]).toEqual(["first", true]);
    expect(asks.map(({ signal }) => signal.aborted)).toEqual([true, true, false]);
    asks[2]!.give("third");
    await settled();
    asks[1]!.give("second");
    await settled();
    expect([resource.data, resource.loading]).toEqual(["third", false]);
    void resource.reload();
    stop();
    expect(asks[3]!.signal.aborted).toBe(true);
    await resource.reload();
    expect(asks).toHaveLength(4);
  });

  it("tells what went wrong beside the answer before, until it works again", async () => {
    const { asks, resource, stop } = held();
    asks[0]!.give("first");
    await settled();
    void resource.reload();
    asks[1]!.fail(new Error("no such ledger"));
    await settled();
    expect(resource.problem!.detail).toContain("no such ledger");
    expect(resource.data).toBe("first");
    void resource.reload();
    asks[2]!.give("again");
    await settled();
    expect([resource.data, resource.problem]).toEqual(["again", null]);
    stop();
  });
});

describe("answers", () => {
  it("tell what the server refused, or that it does not answer", async () => {
    serve({ "GET /holdouts": new Refused(422, "no such date"), "GET /account": {} });
    await expect(answer(api.GET("/holdouts"))).rejects.toThrow("no such date");
    await expect(answer(api.GET("/exports"))).rejects.toThrow("The server is not responding");
  });

  it("read what is kept again after a change, and leave it as it was where that was refused", async () => {
    const rows = [destination(1, "A")];
    serve({ "GET /destinations": () => ({ destinations: [...rows] }) });
    let kept!: Kept<{ destinations: object[] }>;
    const stop = $effect.root(() => {
      kept = new Kept(() => answer(api.GET("/destinations")));
    });
    flushSync();
    await settled();
    await kept.attempt(async () => rows.push(destination(2, "B")));
    expect(kept.data!.destinations).toHaveLength(2);
    serve({ "DELETE /destinations/1": new Refused(409, "an export puts its people there") });
    await kept.attempt(() => answer(api.DELETE("/destinations/{id}", { params: { path: { id: 1 } } })));
    expect(kept.refused!.detail).toBe("an export puts its people there");
    await kept.attempt(async () => {});
    expect(kept.refused).toBeNull();
    stop();
  });
});

describe("the session", () => {
  it("knows what a role may, and that it is over when anything says so", async () => {
    expect(session.may("administrator")).toBe(true);
    session.known = { ...session.known!, account: { ...session.account!, role: "analyst" } };
    expect([session.may("viewer"), session.may("analyst"), session.may("administrator")]).toEqual([
      true,
      true,
      false,
    ]);
    serve({ "GET /exports": new Refused(401, "sign in first") });
    await expect(answer(api.GET("/exports"))).rejects.toThrow("sign in first");
    expect(session.account).toBeNull();
    expect(session.may("viewer")).toBe(false);
  });
});
