import { fireEvent, render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { fresh, type Written } from "./exports";
import type { Schemas } from "../lib/api/client";
import { audienceRow, destination, people, exportRow, run } from "../testing/examples";
import { session } from "../lib/session.svelte";
import { catalogue, last, Refused, sent, serve, signedIn } from "../testing/server";
import Export from "./Export.svelte";

const audiences = [
  audienceRow(4, "Dormant commuters", { version: 3 }),
  audienceRow(5, "Far riders", { version: 1 }),
];
const trial: Schemas["ExportTrial"] = {
  ...{ as_of: "2026-10-31", people, before: null, columns: ["customer", "state"] },
  rows: [["F00001", "dormant"]],
};
const saved = (changes: Partial<Written> = {}) => ({
  ...exportRow(9),
  ...fresh(audiences[0]!, catalogue.columns),
  ...changes,
  runs: [],
});
const list: Schemas["ContactList"] = {
  ...{ id: 2, name: "Never again", kind: "email", size: 12, updated_at: "2026-10-01T08:00:00Z" },
};

beforeEach(() => {
  serve({
    "GET /audiences": { audiences },
    "GET /contact-lists": { lists: [list] },
    "GET /holdouts": {
      holdouts: [{ id: 3, name: "Winter", share: 0.1, number: null, settled: false }],
    },
    "GET /destinations": { destinations: [destination(6, "Post")] },
    "GET /exports/9": () => saved(),
    "POST /exports/try": trial,
  });
});

async function opened(id: number | null) {
  render(Export, { id });
  await screen.findByRole("table", { name: "Export waterfall" });
  return userEvent.setup();
}
const asks = () => sent("/exports/try").map(({ body }) => body as Written);
/** A viewer's look at it. */
async function looked() {
  session.known = signedIn({ role: "viewer" });
  serve({ "GET /exports/9": { ...saved(), runs: [run(6)] } });
  render(Export, { id: 9 });
  await screen.findByText(/Only analysts and administrators can edit this export/);
}
const choose = (label: string) => screen.getByRole("combobox", { name: label });

describe("an export", () => {
  it("is only read by viewers: nothing is tried, started, changed or downloaded", async () => {
    await looked();
    expect(sent("/exports/try")).toEqual([]);
    expect(screen.queryByRole("button", { name: /Export|Save|Approve|Cancel/ })).toBeNull();
    expect(screen.queryByRole("link", { name: /file|csv|manifest/ })).toBeNull();
    expect(screen.getByLabelText("Name of the export")).toHaveProperty("readOnly", true);
    expect(screen.getByTestId("runs")).toBeTruthy();
  });

  it("begins with an audience, is tried with every change, and stands in the address until it is saved", async () => {
    address.go("/exports/new?audience=5&as_of=2026-09-30");
    const user = await opened(null);
    expect(screen.getByRole("textbox", { name: "Name of the export" })).toHaveProperty("value", "Far riders");
    expect(asks()[0]).toMatchObject({ audience_id: 5, version: null, export: null, as_of: "2026-09-30" });
    await user.selectOptions(choose("Channel"), "email");
    await user.selectOptions(choose("Holdout"), "Winter, 10%");
    await user.click(screen.getByText("no suppression list"));
    await user.click(screen.getByRole("checkbox", { name: /Never again 12 values/ }));
    await user.selectOptions(choose("Destination"), "as a download and to Post");
    await waitFor(() =>
      expect(asks().at(-1)).toMatchObject({
        destination_id: 6,
        rules: { channel: "email", holdout: 3, lists: [2] },
      }),
    );
    const draft = JSON.parse(new URLSearchParams(location.search).get("export")!);
    expect(draft.rules.lists).toEqual([2]);
    await user.selectOptions(choose("Add a column"), "lapse probability …");
    await user.click(screen.getByRole("button", { name: "Add a column, as chosen" }));
    expect(screen.getByPlaceholderText("chance_to_lapse_within_30_days")).toBeTruthy();
    const days = within(screen.getByTestId("columns")).getByLabelText("days");
    await fireEvent.change(days, { target: { value: "60" } });
    await waitFor(() =>
      expect((asks().at(-1) as { rules: { columns: object[] } }).rules.columns.at(-1)).toEqual({
        ...{ take: "chance", of: "lapse", days: 60 },
      }),
    );
    serve({
      "POST /exports": ({ body }) => {
        const { name, audience_id, version, destination_id, rules } = body as Written;
        return { ...exportRow(9), name, audience_id, version, destination_id, rules };
      },
    });
    await user.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(address.path).toBe("/exports/9"));
    expect(sent("/exports")[0]!.body).toMatchObject({ name: "Far riders", rules: { holdout: 3 } });
    const shows = () => last("/analyses/holdout-size").body;
    expect(shows()).toMatchObject({ audience: 5, share: 0.1, days: 14, metric: { lifecycle: "came_back" } });
    await user.selectOptions(choose("Measured by, in advance"), "share new or active at the end");
    await waitFor(() => expect(shows()).toMatchObject({ metric: { lifecycle: "is_active" } }));
  });

  it("says what would become of everybody, step by step, and opens a step into its people", async () => {
    const user = await opened(9);
    expect(screen.getByTestId("finding").textContent).toMatch(/800 of 1,000 people would\s+be\s+exported/);
    const row = (step: string) => within(screen.getByTestId(`step-${step}`));
    expect(
      row("no_address")
        .getAllByRole("cell")
        .map((cell) => cell.textContent!.trim()),
    ).toEqual(["no address", "120", "", "880", "12%"]);
    expect(row("holdout").getByText("800")).toBeTruthy();
    expect(row("listed").queryByRole("button")).toBeNull();
    serve({ "POST /exports/try/people": { step: "consent_withdrawn", total: 30, rows: [] } });
    await user.click(row("consent_withdrawn").getByRole("button", { name: "30 consent withdrawn" }));
    await waitFor(() =>
      expect(last("/exports/try/people").body).toMatchObject({ step: "consent_withdrawn" }),
    );
    expect(address.get("step")).toBe("consent_withdrawn");
  });

  it("is exported once, however often that is clicked, and keeps what was changed before", async () => {
    const user = await opened(9);
    let answer = () => {};
    serve({
      "PUT /exports/9": ({ body }) => saved(body as Written),
      "POST /exports/9/runs": () => new Promise((resolve) => (answer = () => resolve(run(1)))),
    });
    await user.clear(screen.getByRole("textbox", { name: "Name of the export" }));
    await user.type(screen.getByRole("textbox", { name: "Name of the export" }), "Wake up");
    const button = await screen.findByRole("button", { name: "Save and export 800 people" });
    await user.dblClick(button);
    await waitFor(() => expect(sent("/exports/9/runs")).toHaveLength(1));
    expect(sent("/exports/9")[0]!.body).toMatchObject({ name: "Wake up", updated_at: saved().updated_at });
    answer();
    await screen.findByRole("button", { name: "Export 800 people" });
    expect(sent("/exports/9/runs")).toHaveLength(1);
  });

  it("loses nothing where it was changed elsewhere, makes no sense, or nobody answers", async () => {
    const user = await opened(9);
    serve({ "PUT /exports/9": new Refused(409, "the destination has been deleted") });
    await user.selectOptions(choose("Mode"), "only people who entered or left since the last run");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toContain("destination has been deleted");
    expect(choose("Mode")).toHaveProperty("value", "changes");
    const fault = { place: "columns[0].take", message: "there is no attribute plan any more" };
    serve({ "POST /exports/try": new Refused(422, "This export cannot be carried out", [fault]) });
    await user.selectOptions(choose("Version"), "in version 2");
    expect(await screen.findByText(/there is no attribute plan any more/)).toBeTruthy();
    expect(screen.getByRole("button", { name: /export/ })).toHaveProperty("disabled", true);
    serve({ "POST /exports/try": { ...trial, people: { ...people, entered: 3, left: 2 } } });
    await user.click(screen.getByRole("button", { name: "Try again" }));
    expect(
      await screen.findByRole("button", { name: "Save and export 3 who entered and 2 who left" }),
    ).toBeTruthy();
  });

  it("offers both versions where someone else has saved it meanwhile, also while it runs", async () => {
    const user = await opened(9);
    const name = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Name of the export" });
    await user.type(name(), "!");
    const theirs = { ...saved({ name: "Theirs" }), updated_at: "2026-11-01T08:00:00Z" };
    serve({ "GET /exports/9": theirs, "PUT /exports/9": new Refused(409, "changed") });
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(within(await screen.findByTestId("conflict")).getByText("Theirs")).toBeTruthy();
    expect(name().value).toBe("Dormant commuters!");
    serve({
      "PUT /exports/9": ({ body }) => ({
        ...theirs,
        ...(body as object),
        updated_at: "2026-11-02T08:00:00Z",
      }),
    });
    await user.click(screen.getByRole("button", { name: "Save mine instead" }));
    await waitFor(() => expect(screen.queryByTestId("conflict")).toBeNull());
    expect(last("/exports/9").body).toMatchObject({
      name: "Dormant commuters!",
      updated_at: theirs.updated_at,
    });
  });

  it("keeps what is written while it is saved, and takes the other's version on request", async () => {
    const user = await opened(9);
    const name = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Name of the export" });
    let done = () => {};
    serve({
      "PUT /exports/9": ({ body }) =>
        new Promise((resolve) => (done = () => resolve({ ...saved(), ...(body as object) }))),
    });
    await user.type(name(), " one");
    await user.click(screen.getByRole("button", { name: "Save" }));
    await user.type(name(), " two");
    done();
    await waitFor(() =>
      expect(screen.getByRole("button", { name: "Save" })).toHaveProperty("disabled", false),
    );
    expect(name().value).toBe("Dormant commuters one two");
    serve({
      "GET /exports/9": { ...saved({ name: "Theirs" }), updated_at: "2026-11-01T08:00:00Z" },
      "PUT /exports/9": new Refused(409, "changed"),
    });
    await user.click(screen.getByRole("button", { name: "Save" }));
    await user.click(await screen.findByRole("button", { name: /Take the saved one/ }));
    expect([name().value, screen.queryByTestId("conflict")]).toEqual(["Theirs", null]);
  });

  it("goes by what was saved where the draft in the address is broken", async () => {
    for (const draft of ["{bad", "1", "null", '{"name":"x"}', '{"audience_id":4,"rules":{}}']) {
      address.go(`/exports/9?export=${encodeURIComponent(draft)}`);
      const { unmount } = render(Export, { id: 9 });
      const name = await screen.findByRole("textbox", { name: "Name of the export" });
      expect(name).toHaveProperty("value", "Dormant commuters");
      await waitFor(() => expect(new URLSearchParams(location.search).get("export")).toBeNull());
      unmount();
    }
  });

  it("takes a time by the day, the week, the month, or once, and none where it follows the data", async () => {
    const user = await opened(9);
    const schedule = () => asks().at(-1)!.rules.schedule;
    for (const [text, given] of [
      ["every week", { every: "week", at: "07:00", on: 1 }],
      ["every month", { every: "month", at: "07:00", on: 1 }],
      ["every day", { every: "day", at: "07:00" }],
      ["when the exported people change", { every: "refresh" }],
      ["manually", null],
    ] as const) {
      await user.selectOptions(choose("Schedule"), text);
      await waitFor(() => expect(schedule()).toEqual(given));
    }
    await user.selectOptions(choose("Schedule"), "once");
    await waitFor(() => expect(schedule()).toMatchObject({ every: "once", at: "07:00" }));
    expect(schedule()!.on! > new Date().toISOString()).toBe(true);
  });

  it("says so where there is no audience yet", async () => {
    serve({ "GET /audiences": { audiences: [] } });
    render(Export, { id: null });
    expect(await screen.findByText("No audiences yet.")).toBeTruthy();
    expect(screen.getByRole("link", { name: "New audience" })).toHaveProperty(
      "pathname",
      "/audiences/new",
    );
    expect(sent("/exports/try")).toEqual([]);
  });
});
