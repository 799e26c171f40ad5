import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { last, sent, serve } from "../../testing/server";
import Breakdown from "./Breakdown.svelte";
import Overlap from "./Overlap.svelte";

const OVERLAP = "/studies/overlap";
const region = (inside: number[], count: number, lift: number | null, split: number[] = []) => ({
  ...{ inside, count, lift, split, share: count / 1000 },
});
const overlap = {
  ...{ ids: [4, 5], names: ["Commuters", "Far riders"], takeaway: "They overlap.", any: 400, columns: [] },
  audiences: [
    { count: 300, only: 200, only_share: 2 / 3, share: 0.3 },
    { count: 200, only: 100, only_share: 0.5, share: 0.2 },
  ],
  regions: [region([0], 200, 0.9), region([1], 100, 0.5), region([0, 1], 100, 1.7), region([], 600, null)],
  pairs: [{ pair: [0, 1], count: 100, shares: [1 / 3, 0.5], lift: 1.7 }],
};

/** What a link to people or an audience asks for. */
function meant(link: HTMLElement): unknown {
  return JSON.parse(new URL((link as HTMLAnchorElement).href).searchParams.get("definition")!);
}
const A = { audience: { id: 4 } };
const B = { audience: { id: 5 } };

describe("overlap", () => {
  async function shown() {
    serve({ [`POST ${OVERLAP}`]: { ...overlap, regions: overlap.regions.slice(0, 3) } });
    render(Overlap);
    await screen.findByTestId("regions");
    return userEvent.setup();
  }
  const order = () =>
    within(screen.getByTestId("regions"))
      .getAllByRole("checkbox")
      .map((box) => box.getAttribute("aria-label"));

  it("asks for two audiences before anything is asked of the server", async () => {
    address.go("/studies/overlap?tray=4,5-");
    render(Overlap);
    expect(screen.getByText(/Put two to six audiences into the tray/)).toBeTruthy();
    expect(sent(OVERLAP)).toEqual([]);
  });

  it("shows every combination in the order asked for, each as people", async () => {
    address.go("/studies/overlap?tray=4,5");
    const user = await shown();
    expect(last(OVERLAP).body).toEqual({ audiences: [4, 5], by: null, as_of: "2026-10-31" });
    expect(order()).toEqual(["Choose A, not B", "Choose B, not A", "Choose A and B"]);
    await user.selectOptions(screen.getByLabelText("Order"), "most above chance first");
    expect(order()[0]).toBe("Choose A and B");
    await user.selectOptions(screen.getByLabelText("Order"), "by letters");
    expect(order()).toEqual(["Choose A, not B", "Choose A and B", "Choose B, not A"]);
    expect(meant(screen.getByRole("link", { name: "200" }))).toEqual({ all: [A, { not: B }] });
    const strip = screen.getByRole("img", { name: "Commuters: 300 people, 200 of them in no other" });
    expect(strip.querySelectorAll("rect")).toHaveLength(2);
  });

  it("adds chosen combinations up to one group", async () => {
    address.go("/studies/overlap?tray=4,5");
    const user = await shown();
    await user.click(screen.getByLabelText("Choose A and B"));
    expect(meant(screen.getByRole("link", { name: "see them" }))).toEqual({ all: [A, B] });
    await user.click(screen.getByLabelText("Choose B, not A"));
    const together = screen.getByRole("link", { name: "make them an audience" });
    expect(together.parentElement!.textContent).toContain("200 people in the 2 chosen");
    expect(meant(together)).toEqual({ all: [{ any: [{ all: [{ not: A }, B] }, { all: [A, B] }] }] });
    await user.click(screen.getByLabelText("Choose A and B"));
    await user.click(screen.getByLabelText("Choose B, not A"));
    expect(screen.queryByRole("link", { name: "see them" })).toBeNull();
  });
});

describe("breakdown", () => {
  const PATH = "/studies/breakdown";
  const clause = (value: string) => ({ attribute: { name: "plan", compare: "is", value } });
  const row = (value: string, counts: number[], shares: number[], difference: object | null = null) => ({
    ...{ kind: "value", value, counts, shares, difference, clause: clause(value) },
  });

  it("splits everybody by state unless asked otherwise, and by what is asked", async () => {
    const states = { ids: [], names: [], totals: [1000], values: 1, takeaway: "Most are active." };
    serve({ [`POST ${PATH}`]: { ...states, rows: [row("active", [700], [0.7])] } });
    render(Breakdown);
    await screen.findByTestId("breakdown");
    expect(last(PATH).body).toEqual({ audiences: [], by: { state: true }, as_of: "2026-10-31" });
    expect(meant(screen.getByRole("link", { name: "700" }))).toEqual({ all: [clause("active")] });
    address.go("/studies/breakdown?by=attribute:plan");
    await waitFor(() => expect(last(PATH).body).toMatchObject({ by: { attribute: "plan" } }));
  });

  it("compares two audiences with the interval of the difference, the first two of more", async () => {
    address.go("/studies/breakdown?by=attribute:plan&tray=4,5,6");
    const clear = { estimate: 0.1, low: 0.02, high: 0.18 };
    const unclear = { estimate: -0.01, low: -0.05, high: 0.03 };
    serve({
      [`POST ${PATH}`]: {
        ...{
          ids: [4, 5],
          names: ["Commuters", "Far riders"],
          totals: [300, 200],
          values: 9,
          takeaway: "Apart.",
        },
        rows: [row("yearly", [90, 80], [0.3, 0.4], clear), row("day", [30, 18], [0.1, 0.09], unclear)],
      },
    });
    render(Breakdown);
    const rows = within(await screen.findByTestId("breakdown")).getAllByRole("row");
    expect(last(PATH).body).toMatchObject({ audiences: [4, 5] });
    expect(rows[1]!.textContent).toContain("+10.0");
    expect(rows[1]!.querySelector("circle")!.getAttribute("fill")).toBe("var(--ink)");
    expect(rows[2]!.querySelector("circle")!.getAttribute("fill")).toBe("var(--paper)");
    expect(rows[2]!.textContent!.replace(/\s+/g, " ")).toContain("−5.0 to +3.0");
    expect(
      meant(within(rows[1]!).getByRole("link", { name: "yearly of Far riders as an audience" })),
    ).toEqual({
      all: [B, clause("yearly")],
    });
    expect(screen.getByText(/9 different values; the most frequent are shown/)).toBeTruthy();
    expect(screen.getByText(/Two at a time/)).toBeTruthy();
  });
});
