import { cleanup, render, screen, within } from "@testing-library/svelte";
import { tick } from "svelte";
import { describe, expect, it, vi } from "vitest";
import { address } from "../lib/address.svelte";
import { lastAsked } from "../lib/asked.svelte";
import Analyses from "./Analyses.svelte";

const RIDES = { event: "ride_ended" };
const PASSES = { event: "pass_bought" };
const FROM = "2026-08-01";
const PLAN = { attribute: "plan" };
/** What every question here has in common. */
const COMMON = {
  ...{ event: "ride_ended", also: JSON.stringify([PASSES]), from: FROM, step: "month" },
  by: "attribute:plan",
};
const SERIES = { series: [RIDES, PASSES], from: FROM, by: PLAN };
/** What each analysis has in its address besides, and what arrives there of the question of another. */
const ANALYSES: Record<string, { own: Record<string, string>; arrives: object }> = {
  trends: {
    own: { measure: "sum", of: "minutes", behind: "previous", hidden: "1" },
    arrives: { ...SERIES, step: "month", measure: "people" },
  },
  ranking: { own: { counted: "times", leave: "app_opened" }, arrives: { from: FROM, audiences: [4, 5] } },
  "next-events": {
    own: { direction: "before", depth: "3" },
    arrives: { event: RIDES, from: FROM, depth: 2, audiences: [4, 5] },
  },
  frequency: { own: { unit: "days", bars: "time", edges: "1,2,5" }, arrives: { ...SERIES, unit: "events" } },
  visits: { own: { shown: "length", unit: "hours" }, arrives: { from: FROM, step: "month", by: PLAN } },
  experience: { own: { along: "day", what: "shares" }, arrives: { ...SERIES, along: "visit" } },
  retention: {
    own: { return: "pass_bought", counted: "or_later", drawn: "time" },
    arrives: { start: RIDES, from: FROM, step: "month", by: PLAN, counted: "in" },
  },
  "cohort-value": {
    own: { cost: "30", what: "running" },
    arrives: { start: RIDES, from: FROM, step: "month", by: PLAN },
  },
  funnel: {
    own: { then: JSON.stringify([PASSES]), within: "14 days" },
    arrives: { steps: [RIDES, PASSES], from: FROM, by: PLAN, within: null },
  },
  change: {
    own: { measure: "times", date: "2026-09-01" },
    arrives: { of: RIDES, step: "month", measure: "people", audiences: [4, 5] },
  },
  chance: { own: { chance: "lapse", within: "14" }, arrives: { of: "come_back", within_days: 30 } },
  overlap: { own: {}, arrives: { audiences: [4, 5] } },
  breakdown: { own: {}, arrives: { by: PLAN, audiences: [4, 5] } },
  "before-after": { own: { before: "7", after: "14" }, arrives: { from: FROM, metric: RIDES, after: 28 } },
};
const pairs = Object.keys(ANALYSES).flatMap((one) =>
  Object.keys(ANALYSES)
    .filter((other) => other !== one)
    .map((other) => [one, other] as const),
);

describe("a question", () => {
  it.each(pairs)("goes from %s to %s as far as it applies, and nothing else does", async (one, other) => {
    const { own, arrives } = ANALYSES[other]!;
    address.go(
      `/analyses/${one}?${new URLSearchParams({ compare: "4,5", ...COMMON, ...ANALYSES[one]!.own })}`,
    );
    render(Analyses, { name: one });
    const names = within(screen.getByRole("navigation", { name: "Analyses" }));
    const links = names.getAllByRole<HTMLAnchorElement>("link").map((link) => link.getAttribute("href")!);
    const link = links.find((href) => href.startsWith(`/analyses/${other}?`))!;
    cleanup();

    const query = new URLSearchParams(link.split("?")[1]);
    for (const [name, value] of Object.entries(COMMON)) expect(query.get(name), name).toBe(value);
    for (const name of Object.keys({ ...own, ...ANALYSES[one]!.own }))
      if (!["of", "step"].includes(name)) expect(query.has(name), name).toBe(false);
    delete lastAsked[other as keyof typeof lastAsked];
    address.go(link);
    render(Analyses, { name: other });
    await vi.dynamicImportSettled();
    await tick();
    const asked: unknown = JSON.parse(lastAsked[other as keyof typeof lastAsked] ?? "null");
    expect(asked, other).toMatchObject(arrives);
    expect(screen.queryByText(/Part of this link/)).toBeNull();
  });
});
