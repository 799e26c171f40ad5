import { render, screen, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { workspace } from "../lib/workspace.svelte";
import MovementTable from "./MovementTable.svelte";

// From and to: never active, new, active, dormant, churned.
const table = [
  [500, 40, 10, 5, 0],
  [0, 20, 15, 5, 0],
  [0, 0, 200, 30, 0],
  [0, 0, 12, 60, 8],
  [0, 0, 3, 0, 90],
];
const movement = {
  ...{ to: "2026-09-30", table, net: 30, gain_loss_ratio: 65 / 35, complete: true, from: "2026-09-01" },
  ...{ joined: 50, came_and_lapsed: 5, reactivated: 15, retained: 235, lapsed: 35, newly_churned: 8 },
};

function shown(changes: object = {}) {
  render(MovementTable, { movement: { ...movement, ...changes } as never, before: "2026-08-31" });
}
function meant(link: HTMLElement): unknown {
  return JSON.parse(new URL((link as HTMLAnchorElement).href).searchParams.get("definition")!);
}

describe("movement between two dates", () => {
  it("opens every cell into who went that way, the never active before included", () => {
    shown();
    const cells = within(screen.getByTestId("movement"));
    expect(meant(cells.getByRole("link", { name: "30 people from active to dormant, lapsed" }))).toEqual({
      all: [
        {
          all: [
            { lifecycle: { is: ["active"], on: "2026-08-31" } },
            { lifecycle: { is: ["dormant"], on: "2026-09-30" } },
          ],
        },
      ],
    });
    const joined = meant(cells.getByRole("link", { name: "40 people from never active to new, joined" }));
    expect(JSON.stringify(joined)).toContain(
      '{"not":{"lifecycle":{"is":["new","active","dormant","churned"]',
    );
    expect(cells.queryByRole("link", { name: /500/ })).toBeNull();
    expect(cells.getAllByRole("link")).toHaveLength(13);
  });

  it("names the parts, which can be kept as audiences by the rule set that is meant", () => {
    workspace.ruleSets = [{ ...workspace.ruleSets[0]!, id: 9, default: false }];
    history.replaceState(null, "", "/?rules=9");
    dispatchEvent(new PopStateEvent("popstate"));
    shown();
    const parts = within(screen.getByRole("table", { name: "Movement summary" }));
    const cells = (column: number) =>
      parts.getAllByRole("row").map((row) => row.children[column]!.textContent!.trim());
    expect(cells(1)).toEqual(["50", "15", "235", "35", "8", "5"]);
    expect([cells(0)[0], cells(0)[5]]).toEqual(["joined", "came and lapsed"]);
    expect(JSON.stringify(meant(parts.getByRole("link", { name: "8" })))).toContain('"rule_set":{"id":9}');
    expect(screen.getByText("1.86")).toBeTruthy();
    expect(screen.queryByText(/has not ended/)).toBeNull();
  });

  it("has no ratio where nothing lapsed, and says where the day has not ended", () => {
    shown({ gain_loss_ratio: null, net: -3, to: "2026-11-01" });
    expect(screen.getByText("–", { selector: "strong" })).toBeTruthy();
    expect(screen.getByText(/new or active people: −3/)).toBeTruthy();
    expect(screen.getByText(/1 Nov 2026 has not ended/)).toBeTruthy();
  });
});
