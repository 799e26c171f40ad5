import { render, screen, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { last, sent, serve } from "../../testing/server";
import Overlap from "./Overlap.svelte";

const PATH = "/analyses/overlap";
const A = { audience: { id: 4 } };
const B = { audience: { id: 5 } };
const region = (inside: number[], count: number) => ({
  ...{ inside, count, lift: null, split: [], share: count / 1000 },
});
const exactly = (words: string, people: number, all: object[]) => ({
  ...{ values: [words, people], people: { all }, cells: {} },
});
const overlap = answerOf(
  "overlap",
  {
    ...{
      ids: [4, 5],
      names: ["Commuters", "Far riders"],
      everybody: 1000,
      any: 400,
      among: null,
      columns: [],
    },
    audiences: [
      { count: 300, only: 200, only_share: 2 / 3, share: 0.3 },
      { count: 200, only: 100, only_share: 0.5, share: 0.2 },
    ],
    regions: [region([0], 200), region([1], 100), region([0, 1], 100)],
    pairs: [
      { pair: [0, 1], count: 100, shares: [1 / 3, 0.5], lift: 1.7, low: 1.4, high: 2.1, p_value: 0.001 },
    ],
  },
  {
    finding: "They overlap.",
    tables: [
      {
        ...{ key: "combinations", title: "Every combination", figures: [] },
        columns: [
          { key: "in", label: "In exactly", kind: "text", unit: null, of: null },
          { key: "people", label: "People", kind: "people", unit: null, of: null },
        ],
        rows: [
          exactly("Commuters, not Far riders", 200, [A, { not: B }]),
          exactly("Commuters and Far riders", 100, [A, B]),
        ],
      },
    ],
  },
);

describe("overlap", () => {
  it("asks for two audiences before anything is asked of the server", async () => {
    address.go("/analyses/overlap?compare=4,5-");
    render(Overlap);
    expect(await screen.findByText(/Choose two to six audiences/)).toBeTruthy();
    expect(sent(PATH)).toEqual([]);
  });

  it("draws each audience with its parts, and opens each part into its people", async () => {
    address.go("/analyses/overlap?compare=4,5");
    serve({ [`POST ${PATH}`]: overlap });
    render(Overlap);
    const strips = within(await screen.findByTestId("strips"));
    expect(last(PATH).body).toEqual({ audiences: [4, 5], by: null, as_of: "2026-10-31" });
    expect(screen.getByTestId("finding").textContent).toBe("They overlap.");
    expect(strips.getAllByRole("link").map((part) => part.getAttribute("aria-label"))).toEqual([
      "Only in A: 200",
      "Only in AB: 100",
      "Only in B: 100",
      "Only in AB: 100",
    ]);
    expect(meant(strips.getByRole("link", { name: "Only in A: 200" }))).toEqual([A, { not: B }]);
  });

  it("makes one group of the combinations that are chosen", async () => {
    address.go("/analyses/overlap?compare=4,5");
    serve({ [`POST ${PATH}`]: overlap });
    render(Overlap);
    const user = userEvent.setup();
    await user.click(await screen.findByLabelText("Choose Commuters and Far riders"));
    expect(meant(screen.getByRole("link", { name: "View people" }))).toEqual([{ all: [A, B] }]);
    await user.click(screen.getByLabelText("Choose Commuters, not Far riders"));
    expect(meant(screen.getByRole("link", { name: "create an audience" }))).toEqual([
      { any: [{ all: [A, B] }, { all: [A, { not: B }] }] },
    ]);
    await user.click(screen.getByLabelText("Choose Commuters and Far riders"));
    await user.click(screen.getByLabelText("Choose Commuters, not Far riders"));
    expect(screen.queryByRole("link", { name: "View people" })).toBeNull();
  });

  it("looks among customers where that is asked, and says shares of these", async () => {
    address.go("/analyses/overlap?compare=4,5&base=customers");
    const among = { profile_type: { is: ["customer"] } };
    const picture = { ...overlap.picture, among: among as never };
    serve({ [`POST ${PATH}`]: { ...overlap, picture }, "GET /audiences": { audiences: [] } });
    render(Overlap);
    const strips = within(await screen.findByTestId("strips"));
    expect(last(PATH).body).toMatchObject({ audiences: [4, 5], base: "customers" });
    expect(meant(strips.getByRole("link", { name: "Only in A: 200" }))).toEqual([A, { not: B }, among]);
    expect(screen.getByTestId("strips").textContent).toMatch(/30% of the base/);
    expect(screen.getByTestId("strips").textContent).not.toMatch(/of all people/);
  });

  it("leaves out of the address what makes no sense, and says so", async () => {
    address.go("/analyses/overlap?compare=4,5&by=weather");
    serve({ [`POST ${PATH}`]: overlap });
    render(Overlap);
    await screen.findByTestId("finding");
    expect(last(PATH).body).toMatchObject({ by: null });
    expect(screen.getByText(/could not be read and was ignored: by/)).toBeTruthy();
  });
});
