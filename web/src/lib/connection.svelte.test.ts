import { flushSync } from "svelte";
import { describe, expect, it } from "vitest";
import { Refusal, unreachable } from "./api/client";
import { connection } from "./connection.svelte";
import { Resource } from "./resource.svelte";

describe("a connection that comes back", () => {
  it("asks again for what failed without an answer, and for nothing else", async () => {
    const asked = { away: 0, refused: 0, there: 0 };
    const fails = (name: keyof typeof asked, problem: typeof unreachable | null) => () => {
      asked[name] += 1;
      return problem ? Promise.reject(new Refusal(problem)) : Promise.resolve(name);
    };
    const stop = $effect.root(() => {
      new Resource(fails("away", unreachable));
      new Resource(fails("refused", { ...unreachable, status: 422 }));
      new Resource(fails("there", null));
    });
    flushSync();
    await new Promise((resolve) => setTimeout(resolve));
    connection.found();
    flushSync();
    expect(asked).toEqual({ away: 1, refused: 1, there: 1 });
    connection.lost();
    connection.found();
    flushSync();
    expect(asked).toEqual({ away: 2, refused: 1, there: 1 });
    stop();
  });
});
