import { cleanup, render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import type { Schemas } from "../../lib/api/client";
import { answerOf, tableOf } from "../../testing/answers";
import { audienceRow, destination } from "../../testing/examples";
import { last, Refused, sent, serve } from "../../testing/server";
import Pages from "./Pages.svelte";
import { asks, moved } from "./pages";

const MOMENT = "2026-10-31T09:00:00.000000Z";
const mine = { owner: "ana@estrel.example", mine: true, private: false };
const version = {
  ...{ version: 1, analysis: "trends", author: "ana@estrel.example", written_at: MOMENT },
  ...{
    question: { event: "ride_ended", from: "-30" },
    asks: { series: [{ event: "ride_ended" }], from: "-30" },
  },
};
const saved: Schemas["SavedAnalysis"] = {
  ...version,
  ...mine,
  ...{ id: 7, name: "Weekly rides", folder: "", note: "", updated_at: MOMENT },
};

function page(more: Partial<Schemas["PageDetail"]> = {}): Schemas["PageDetail"] {
  return {
    ...mine,
    ...{ id: 3, name: "Every Monday", schedule: null, destination_id: null, destination: null },
    ...{ next_run_at: null, updated_at: MOMENT, comments: [], runs: [] },
    blocks: [
      { kind: "heading", text: "Rides" },
      { kind: "analysis", id: 7, table: false },
    ],
    ...more,
  };
}

const periods = tableOf(
  "periods",
  ["from:date", "line_0:people"],
  ...["2026-10-12", "2026-10-19"].map((from, index) => ({
    ...{ values: [from, 10 + index] },
    cells: { line_0: { did: { event: "ride_ended" } } as never },
  })),
);
const totals = tableOf("lines", ["line:text", "total:people"], { values: ["ended a ride", 21] });
const picture = {
  ...{ from: "2026-10-12", to: "2026-10-31", step: "week" as const, measure: "people" },
  ...{ column: "people" as const, unit: null, quantity: null, periods: [], behind: null, rows: [] },
};
const trends = answerOf("trends", picture, {
  finding: "21 people ended a ride.",
  tables: [totals, periods],
  drawn: { table: "periods", figure: "line_0" },
});

async function shown(detail = page()) {
  serve({
    "GET /pages/3": detail,
    "PUT /pages/3": { ...detail, name: "Changed" },
    "GET /pages": { pages: [detail] },
    "GET /saved-analyses": { saved_analyses: [saved] },
    "GET /audiences": { audiences: [audienceRow(4, "Commuters")] },
    "GET /destinations": {
      destinations: [destination(5, "Board", { kind: "folder", settings: { folder: "board" } })],
    },
    "POST /analyses/trends": trends,
  });
  address.go("/analyses/pages/3");
  render(Pages, { id: "3" });
  await screen.findByText("21 people ended a ride.");
  return userEvent.setup();
}

describe("a page", () => {
  it("shows what is on it as of the date of the place, each analysis with what it says and a picture", async () => {
    await shown();
    expect(screen.getByRole("heading", { name: "Rides" })).toBeTruthy();
    expect(last("/analyses/trends").body).toMatchObject({ as_of: "2026-10-31", from: "2026-10-01" });
    expect(screen.getByRole("group", { name: /line_0: periods/ })).toBeTruthy();
    expect(screen.getByRole("link", { name: "Weekly rides" }).getAttribute("href")).toBe(
      "/analyses/trends?event=ride_ended&from=2026-10-01&saved=7",
    );
    const file = screen.getByRole("link", { name: "Download HTML" });
    expect(file.getAttribute("href")).toBe("/api/pages/3/document.html?as_of=2026-10-31");
  });

  it("is written: blocks come, change places and go, and what is drawn is chosen", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "Edit" }));
    await user.click(screen.getByRole("button", { name: "+ text" }));
    await user.type(screen.getByLabelText("text, block 3"), "More in spring.");
    await user.click(screen.getByRole("button", { name: "Move up: text, block 3" }));
    await user.selectOptions(screen.getByLabelText("Chart"), "lines total");
    await user.click(screen.getByLabelText("Show table"));
    await user.selectOptions(screen.getByRole("combobox", { name: "Add an audience" }), "Commuters");
    await user.click(screen.getByRole("button", { name: "Add an audience, as chosen" }));
    await user.click(screen.getByRole("button", { name: "Remove: heading, block 1" }));
    await user.selectOptions(screen.getByLabelText("Destination"), "the folder Board");
    await user.selectOptions(screen.getByLabelText("Schedule"), "every week");
    await user.click(screen.getByRole("button", { name: "Save report" }));
    await waitFor(() => expect(sent("/pages/3")).toHaveLength(1));
    expect(sent("/pages/3")[0]!.body).toEqual({
      name: "Every Monday",
      blocks: [
        { kind: "text", text: "More in spring." },
        { kind: "analysis", id: 7, table: true, drawn: { table: "lines", figure: "total" } },
        { kind: "audience", id: 4 },
      ],
      private: false,
      schedule: { every: "week", at: "07:00", on: 1 },
      destination_id: 5,
      updated_at: MOMENT,
    });
  });

  const named = () => screen.getByLabelText<HTMLInputElement>("Name of the report");
  const theirs = page({ name: "Theirs", updated_at: "2026-11-01T09:00:00.000000Z" });

  it("offers both versions where someone else has saved it meanwhile", async () => {
    const user = await shown();
    serve({ "PUT /pages/3": new Refused(409, "Unsaved changes"), "GET /pages/3": theirs });
    await user.click(screen.getByRole("button", { name: "Edit" }));
    await user.type(named(), " and Friday");
    await user.click(screen.getByRole("button", { name: "Save report" }));
    expect(within(await screen.findByTestId("conflict")).getByText("Theirs")).toBeTruthy();
    expect(named().value).toBe("Every Monday and Friday");
    const saved = { ...theirs, name: "Every Monday and Friday" };
    serve({ "PUT /pages/3": saved, "GET /pages/3": saved });
    await user.click(screen.getByRole("button", { name: "Save mine instead" }));
    await waitFor(() =>
      expect(sent("/pages/3").at(-1)!.body).toMatchObject({ updated_at: theirs.updated_at }),
    );
    await waitFor(() => expect(screen.queryByLabelText("Name of the report")).toBeNull());
  });

  it("keeps its draft when it is left, and what is written while it is saved", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "Edit" }));
    await user.type(named(), " and Friday");
    cleanup();
    await shown(theirs);
    expect(named().value).toBe("Every Monday and Friday");
    await user.click(
      within(await screen.findByTestId("conflict")).getByRole("button", { name: /Take the saved/ }),
    );
    expect(named().value).toBe("Theirs");
    let done = () => {};
    const saved = { ...theirs, name: "Theirs one" };
    serve({
      "PUT /pages/3": () => new Promise((resolve) => (done = () => resolve(saved))),
      "GET /pages/3": saved,
    });
    await user.type(named(), " one");
    await user.click(screen.getByRole("button", { name: "Save report" }));
    await user.type(named(), " two");
    done();
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "Save report" })).toHaveProperty("disabled", false),
    );
    expect(named().value).toBe("Theirs one two");
  });

  it("is talked about and sent, and says what became of that", async () => {
    const run = {
      id: 1,
      as_of: "2026-10-30",
      state: "failed" as const,
      error: "The folder is full.",
      file_name: null,
    };
    const detail = page({
      ...{ destination_id: 5, destination: "Board" },
      comments: [
        { id: 9, text: "Why the dip?", author: "bo@estrel.example", mine: false, written_at: MOMENT },
      ],
      runs: [{ ...run, started_by: "schedule", created_at: MOMENT, finished_at: MOMENT }],
    });
    const user = await shown(detail);
    serve({ "POST /pages/3/comments": { id: 10, text: "x", author: "", mine: true, written_at: MOMENT } });
    serve({
      "POST /pages/3/runs": {
        ...run,
        state: "queued",
        started_by: "hand",
        created_at: MOMENT,
        finished_at: null,
      },
    });
    expect(screen.getByTestId("sendings").textContent).toMatch(
      /scheduled.*failed.*The folder is full/s,
    );
    const comments = within(screen.getByTestId("comments"));
    expect(comments.getByText("Why the dip?")).toBeTruthy();
    expect(comments.queryByRole("button", { name: /Remove/ })).toBeNull();
    await user.type(comments.getByLabelText("Your comment"), "It rained.");
    await user.click(comments.getByRole("button", { name: "Post comment" }));
    await waitFor(() => expect(last("/pages/3/comments").body).toEqual({ text: "It rained." }));
    await user.click(screen.getByRole("button", { name: "Send to Board now" }));
    await waitFor(() => expect(last("/pages/3/runs").body).toEqual({ as_of: "2026-10-31" }));
  });

  it("keeps fixed dates, moves others, and knows where a block can go", () => {
    expect(asks({ ...saved, asks: { from: "2026-05-01", as_of: "2026-05-31" } }, "2026-10-31")).toEqual({
      from: "2026-05-01",
      as_of: "2026-05-31",
    });
    expect(asks({ ...saved, asks: null }, "2026-10-31")).toBeNull();
    expect([moved([1, 2, 3], 0, -1), moved([1, 2, 3], 0, 1), moved([1, 2, 3], 2, 1)]).toEqual([
      [1, 2, 3],
      [2, 1, 3],
      [1, 2, 3],
    ]);
  });
});
