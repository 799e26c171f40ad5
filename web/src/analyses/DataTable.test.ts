import type { Node } from "../audiences/definition";
import { render, screen, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { tableOf } from "../testing/answers";
import { user } from "../testing/editing";
import { meant } from "../testing/links";
import DataTable, { rowsOf } from "./DataTable.svelte";

const weekly = { did: { event: "ride_ended" } };
const plan = (value: string): Node => ({ attribute: { name: "plan", compare: "is", value } });
const table = tableOf(
  "weeks",
  [
    "week:date",
    "people:people",
    "back:count:people",
    "net:change",
    "more:growth",
    "gap:days",
    "complete:flag",
  ],
  { values: ["2026-10-11", 1200, 300, -1500, -0.25, 1, true], people: plan("day"), cells: { back: weekly } },
  { values: ["2026-10-18", 0, 0, 20, 0.031, 2.5, true], people: plan("none") },
  { values: ["2026-10-25", 80, null, 0, null, 1000, false], people: plan("yearly") },
);
const texts = () =>
  screen
    .getAllByRole("row")
    .slice(1)
    .map((row) => [...row.children].map((cell) => cell.textContent!.replace(/\s+/g, " ").trim()));

describe("a table", () => {
  it("writes each kind of figure in its own way, and marks what is incomplete", () => {
    render(DataTable, { table });
    expect(texts().map((cells) => cells.slice(0, 6))).toEqual([
      ["11 Oct 2026", "1,200", "300 25%", "−1,500", "−25%", "1 day"],
      ["18 Oct 2026", "0", "0", "+20", "+3.1%", "2.5 days"],
      ["25 Oct 2026 incomplete", "80", "–", "±0", "–", "1,000 days"],
    ]);
    expect(screen.queryByText("complete")).toBeNull();
    expect(rowsOf(table)[0]).toMatchObject({ week: "2026-10-11", back: 300, net: -1500, complete: true });
  });

  it("opens counts into the people of their cell or row, and rows as audiences", () => {
    render(DataTable, { table, asOf: "2026-10-25" });
    const link = screen.getByRole("link", { name: "1,200" });
    expect(meant(link)).toEqual([plan("day")]);
    expect(link.getAttribute("href")).toContain("as_of=2026-10-25");
    expect(meant(screen.getByRole("link", { name: "300" }))).toEqual([weekly]);
    expect(screen.queryByRole("link", { name: "0" })).toBeNull();
    expect(meant(screen.getByRole("link", { name: /Create audience: 25 Oct 2026/ }))).toEqual([plan("yearly")]);
  });

  it("is sorted by its columns, downwards first for figures, with what is missing last; then as it was", async () => {
    render(DataTable, { table, newest: true });
    const days = () => texts().map(([day]) => day!.slice(0, 2));
    expect(days()).toEqual(["25", "18", "11"]);
    await user.click(screen.getByRole("button", { name: "more" }));
    expect(days()).toEqual(["18", "11", "25"]);
    await user.click(screen.getByRole("button", { name: /more/ }));
    expect(days()).toEqual(["11", "18", "25"]);
    expect(screen.getByRole("columnheader", { name: /more/ }).getAttribute("aria-sort")).toBe("ascending");
    await user.click(screen.getByRole("button", { name: /more/ }));
    expect(days()).toEqual(["25", "18", "11"]);
  });

  it("leads elsewhere and bears notes where its page says so", () => {
    const href = (row: { values: unknown[] }, key: string) => (key === "week" ? `/w/${row.values[0]}` : null);
    const note = (row: { values: unknown[] }) => (row.values[1] === 0 ? "nobody" : null);
    render(DataTable, { table, href, note });
    expect(screen.getByRole("link", { name: "18 Oct 2026" }).getAttribute("href")).toBe("/w/2026-10-18");
    expect(meant(screen.getByRole("link", { name: "80" }))).toEqual([plan("yearly")]);
    expect(texts()[1]![0]).toBe("18 Oct 2026 nobody");
  });

  it("shows the first rows of many until all are asked for", async () => {
    const rows = Array.from({ length: 40 }, (_, index) => ({ values: [`value ${index}`, index] }));
    render(DataTable, { table: tableOf("values", ["value:text", "times:count"], ...rows) });
    const shown = () => within(screen.getByRole("table")).getAllByRole("row").length - 1;
    expect(shown()).toBe(12);
    await user.click(screen.getByRole("button", { name: "Show all 40" }));
    expect(shown()).toBe(40);
  });
});
