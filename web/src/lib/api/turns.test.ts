import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { fetchInTurn } from "./turns";

const plain = globalThis.fetch;
const heavy = (signal?: AbortSignal) => {
  const request = new Request("http://localhost/api/analyses/trends", { method: "POST", body: "{}" });
  return Object.defineProperty(request, "signal", { value: signal ?? new AbortController().signal });
};
/** Lets everything go on that waits for nothing but promises. */
const settled = () => new Promise((resolve) => setTimeout(resolve, 5));

describe("heavy questions", () => {
  let answers: ((response: Response) => void)[] = [];

  beforeEach(() => {
    answers = [];
    globalThis.fetch = vi.fn(() => new Promise<Response>((resolve) => answers.push(resolve)));
  });
  afterEach(() => void (globalThis.fetch = plain));

  it("are asked two at a time, the next when an answer has been read, and light ones at once", async () => {
    const given = [1, 2, 3, 4].map(() => fetchInTurn(heavy()));
    await settled();
    expect(answers).toHaveLength(2);
    void fetchInTurn(new Request("http://localhost/api/workspace"));
    expect(answers).toHaveLength(3);
    answers[0]!(new Response("one"));
    const first = await given[0]!;
    await settled();
    expect(answers).toHaveLength(3);
    expect(await first.text()).toBe("one");
    await settled();
    expect(answers).toHaveLength(4);
    answers[1]!(Response.error());
    answers[3]!(new Response("three"));
    await (await given[2]!).text();
    await settled();
    answers[4]!(new Response("four"));
    expect(await (await given[3]!).text()).toBe("four");
  });

  it("leave the queue when they are given up, and end their turn", async () => {
    const given = [1, 2].map(() => fetchInTurn(heavy()));
    const abandoned = new AbortController();
    const third = fetchInTurn(heavy(abandoned.signal));
    const fourth = fetchInTurn(heavy());
    abandoned.abort();
    await expect(third).rejects.toMatchObject({ name: "AbortError" });
    answers[0]!(new Response("one"));
    await (await given[0]!).text();
    await settled();
    expect(answers).toHaveLength(3);
    answers[1]!(new Response("two"));
    answers[2]!(new Response("four"));
    expect(await (await given[1]!).text()).toBe("two");
    expect(await (await fourth).text()).toBe("four");
  });

  it("are asked again when the server has no turn for them, after the time that it names", async () => {
    const given = fetchInTurn(heavy());
    await settled();
    answers[0]!(new Response("{}", { status: 429, headers: { "retry-after": "0.01" } }));
    await vi.waitFor(() => expect(answers).toHaveLength(2));
    answers[1]!(new Response("now"));
    expect(await (await given).text()).toBe("now");
  });
});
