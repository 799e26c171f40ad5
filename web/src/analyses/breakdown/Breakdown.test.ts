import type { Node } from "../../audiences/definition";
import { render, screen, waitFor, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, serve } from "../../testing/server";
import Breakdown from "./Breakdown.svelte";

const PATH = "/analyses/breakdown";
const people = (value: string): Node => ({ attribute: { name: "plan", compare: "is", value } });
const row = (value: string, counts: number[], shares: number[], difference: Interval | null = null) => ({
  ...{ kind: "value" as const, value, counts, shares, difference, people_in: people(value) },
});
type Interval = { estimate: number; low: number; high: number };

describe("breakdown", () => {
  it("splits everybody by state unless asked otherwise, and by what is asked", async () => {
    address.go("/analyses/breakdown");
    const states = { ids: [], names: [], totals: [1000], values: 1, rows: [row("active", [700], [0.7])] };
    serve({ [`POST ${PATH}`]: answerOf("breakdown", states, { finding: "Most are active." }) });
    render(Breakdown);
    const bars = within(await screen.findByTestId("breakdown"));
    expect(last(PATH).body).toEqual({ audiences: [], by: { state: true }, as_of: "2026-10-31" });
    expect(meant(bars.getByRole("link", { name: "active: 70% 700 people" }))).toEqual([people("active")]);
    address.go("/analyses/breakdown?by=attribute:plan");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" } }));
  });

  it("compares two audiences with the interval of the difference, the first two of more", async () => {
    address.go("/analyses/breakdown?by=attribute:plan&compare=4,5,6");
    const clear = { estimate: 0.1, low: 0.02, high: 0.18 };
    const unclear = { estimate: -0.01, low: -0.05, high: 0.03 };
    const found = {
      ...{ ids: [4, 5], names: ["Commuters", "Far riders"], totals: [300, 200], values: 9 },
      rows: [row("yearly", [90, 80], [0.3, 0.4], clear), row("day", [30, 18], [0.1, 0.09], unclear)],
    };
    serve({ [`POST ${PATH}`]: answerOf("breakdown", found) });
    render(Breakdown);
    const bars = await screen.findByTestId("breakdown");
    expect(last(PATH).body).toMatchObject({ audiences: [4, 5] });
    expect([...bars.querySelectorAll("circle")].map((mark) => mark.getAttribute("fill"))).toEqual([
      "var(--ink)",
      "var(--paper)",
    ]);
    const widest = Math.max(
      ...[...bars.querySelectorAll("rect")].map((bar) => Number(bar.getAttribute("width"))),
    );
    expect(widest).toBeGreaterThan(200); // there is no window here at all
    expect(bars.textContent!.replace(/\s+/g, " ")).toContain("−5.0 to +3.0");
    const link = within(bars).getByRole("link", { name: "yearly of Far riders: 40% 80 people" });
    expect(meant(link)).toEqual([{ audience: { id: 5 } }, people("yearly")]);
    expect(screen.getByText(/Showing the most frequent of 9 values/)).toBeTruthy();
    expect(screen.getByText(/Only the first two audiences/)).toBeTruthy();
  });
});
