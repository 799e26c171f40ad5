import { cleanup, render, screen } from "@testing-library/svelte";
import { tick } from "svelte";
import { describe, expect, it, vi } from "vitest";
import type { AnalysisName } from "../lib/api/ask";
import { address } from "../lib/address.svelte";
import { lastAsked } from "../lib/asked.svelte";
import { checkQuestion } from "../testing/contract";
import Analyses from "./Analyses.svelte";

/** What is JSON, but nothing that an address of ours holds. */
const RIDES = { event: "ride_ended" };
const ODD = [
  ...[null, 5, "x", true, [], {}, [5], [null], [[]], ["x"], [{}], { all: 5 }, { did: 5 }, { not: null }],
  ...[{ event: 5 }, { event: null }, { event: ["ride_ended"] }, { events: "ride_ended" }, { events: [] }],
  ...[{ any_event: 5 }, { ...RIDES, else: 1 }, { ...RIDES, where: 5 }, { ...RIDES, where: [5] }],
  ...[
    { ...RIDES, where: [null] },
    { ...RIDES, where: [{}] },
    { ...RIDES, where: [{ any: 5 }] },
  ],
  ...[{ ...RIDES, where: [{ property: 5, compare: "is" }] }, [{ event: 5 }], [{ ...RIDES, where: {} }]],
  ...[[{ ...RIDES, where: [{ all: [7] }] }], [RIDES, 7]],
].map((json) => JSON.stringify(json));
/** The names under which each reads JSON. */
const READ = {
  ...{ trends: ["event", "also"], "next-events": ["event", "among", "whom"], frequency: ["event", "also"] },
  ...{ visits: ["doing"], experience: ["event", "also"], retention: ["event", "return"] },
  ...{ "cohort-value": ["event", "value"], funnel: ["event", "then"], change: ["event"] },
  ...{ "before-after": ["event", "first"] },
} satisfies Partial<Record<AnalysisName, string[]>>;

/** An object that holds nothing, which the description allows but the server does not, becomes what neither does. */
function notEmpty(_key: string, value: unknown): unknown {
  return JSON.stringify(value) === "{}" ? "nothing (no split)" : value;
}

describe("an address with JSON of another shape", () => {
  const all = Object.entries(READ) as [AnalysisName, string[]][];
  it.each(all)("asks %s nothing that it would refuse", async (name, names) => {
    for (const parameter of names)
      for (const text of ODD) {
        const query = new URLSearchParams({ event: "ride_ended", by: "did", [parameter]: text });
        address.go(`/analyses/${name}?${query}`);
        delete lastAsked[name];
        render(Analyses, { name });
        await vi.dynamicImportSettled();
        await tick();
        const asked: unknown = JSON.parse(lastAsked[name] ?? "null", notEmpty);
        if (asked)
          expect(() => checkQuestion("POST", `/analyses/${name}`, asked), String(query)).not.toThrow();
        expect(screen.queryByText(/undefined|\[object/), String(query)).toBeNull();
        cleanup();
      }
  });
});
