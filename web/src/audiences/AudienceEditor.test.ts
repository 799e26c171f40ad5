import { fireEvent, render, screen, waitFor } from "@testing-library/svelte";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { address } from "../lib/address.svelte";
import { toaster } from "../lib/toasts.svelte";
import { answered } from "../testing/answers";
import { user } from "../testing/editing";
import { audience } from "../testing/examples";
import { session } from "../lib/session.svelte";
import { last, Refused, sent, serve, signedIn } from "../testing/server";
import AudienceEditor from "./AudienceEditor.svelte";
import type { Definition, Node } from "./definition";

const plan: Node = { attribute: { name: "plan", compare: "is", value: "yearly" } };
const visitors: Node = { profile_type: { is: ["visitor"] } };
const definition: Definition = { all: [plan, visitors] };
const kept = audience(4, "Commuters", definition, { version: 3, sentence: "People …" });

/** Each condition is a line of two words, which leaves a hundred people fewer. */
function preview(body: unknown) {
  const asked = (body as { definition: Definition }).definition;
  const part = (text: string, slot: string | null, path: string | null) => ({
    text,
    ink: null,
    slot,
    path,
    about: null,
    raw: null,
  });
  return answered("Preview", {
    ...{
      as_of: "2026-10-31",
      received_by: null,
      base: 1000,
      share: 0.5,
      same_as: [],
      undecided: 0,
      lists: [],
      emptied_by: null,
    },
    ...{ size: 1000 - 100 * asked.all.length, states: { active: 5 }, reachable: { email: 7 }, digest: "d" },
    ...{ definition: asked as never, sentence: `${asked.all.length} conditions` },
    lines: asked.all.map((node, index) => ({
      ...{
        place: `all[${index}]`,
        kind: Object.keys(node)[0] as "profile_type",
        lines: [],
        left: 1000 - 100 * (index + 1),
      },
      parts: node.profile_type
        ? [part("who are", null, null), part(node.profile_type.is.join(" or "), "types", "profile_type")]
        : [part("whose", null, null), part(node.attribute!.name, "attribute", "attribute")],
    })),
  });
}

const nobody = { count: 0, newly_seen: 0, conditions: [], people: [] };
const movement = answered("Movement", {
  ...{ from: "2026-10-01", to: "2026-10-31", before: 5, after: 5, stayed: 5, entered: nobody, left: nobody },
});

beforeEach(() => {
  serve({
    "GET /audiences/4": kept,
    "POST /audiences/preview": ({ body }) => preview(body),
    "GET /audiences/4/versions": { versions: [] },
    "POST /audiences/trend": { as_of: "2026-10-31", sizes: [] },
    "POST /audiences/sample": { sample: [] },
    "POST /audiences/movement": movement,
  });
});

const lost = { by: "customer", identifiers: 12, missing: 3, named: ["F1", "F2"] };

async function shown(id: number | null = 4) {
  const rendered = render(AudienceEditor, { id });
  await waitFor(() => expect(screen.getByTestId("size").dataset.stale).toBe("false"));
  return rendered;
}
const size = () => screen.getByTestId("size").textContent!.trim();
const save = () => screen.getByRole("button", { name: "Save" });
const condition = (words: RegExp) => screen.getByRole("group", { name: words });
const drafted = () => JSON.parse(new URLSearchParams(location.search).get("definition") ?? "null") as unknown;

/** Copies of some JSON with one thing in it, or all of it, being something else, or under another name. */
function* misshapen(json: unknown): Generator<unknown> {
  yield* [null, 5, "x", true, [], {}, [null], { x: 1 }];
  if (typeof json !== "object" || json === null) return;
  for (const [key, value] of Object.entries(json)) {
    for (const other of misshapen(value))
      yield Array.isArray(json) ? json.with(Number(key), other) : { ...json, [key]: other };
    if (!Array.isArray(json)) yield { ...json, [key]: undefined, [`${key}s`]: value };
  }
}

/** What someone else has saved. */
const theirs = {
  ...kept,
  version: 9,
  name: "Theirs",
  updated_at: "2026-10-05T08:00:00Z",
  sentence: "Theirs.",
};

describe("an audience being written", () => {
  it("shows what is saved; what is not saved yet stands in the address and can be undone and done again", async () => {
    await shown();
    expect([size(), save()]).toEqual(["800", expect.objectContaining({ disabled: true })]);
    expect(drafted()).toBeNull();
    condition(/who are visitor/).focus();
    await user.keyboard("{Delete}");
    await waitFor(() => expect(size()).toBe("900"));
    expect(drafted()).toEqual({ all: [plan] });
    expect(screen.getByText(/Unsaved draft/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "↶ undo" }));
    await waitFor(() => expect(size()).toBe("800"));
    await waitFor(() => expect(drafted()).toBeNull());
    await fireEvent.keyDown(window, { key: "y", ctrlKey: true });
    await waitFor(() => expect(size()).toBe("900"));
    await user.click(screen.getByRole("button", { name: "Discard changes" }));
    await waitFor(() => expect(size()).toBe("800"));
  });

  it("shows the size of an earlier definition as out of date, whatever is answered meanwhile", async () => {
    await shown();
    const answers: (() => void)[] = [];
    serve({
      "POST /audiences/preview": ({ body }) =>
        new Promise((resolve) => answers.push(() => resolve(preview(body)))),
    });
    condition(/who are visitor/).focus();
    await user.keyboard("{Delete}");
    await waitFor(() => expect(answers).toHaveLength(1));
    await user.click(screen.getByRole("button", { name: "↶ undo" }));
    answers[0]!();
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(screen.getByTestId("size").dataset.stale).toBe("true");
    await waitFor(() => expect(answers).toHaveLength(2));
    answers[1]!();
    await waitFor(() => expect(screen.getByTestId("size").dataset.stale).toBe("false"));
    expect(size()).toBe("800");
  });

  it("begins with the draft of an address, and forgets it once it is saved", async () => {
    address.go(
      `/audiences/4?definition=${encodeURIComponent(JSON.stringify({ all: [visitors] }))}&name=Visitors`,
    );
    await shown();
    expect([size(), screen.getByLabelText("Name of the audience")]).toEqual([
      "900",
      expect.objectContaining({ value: "Visitors" }),
    ]);
    let done = () => {};
    const saved = { ...kept, name: "Visitors", version: 4, definition: { all: [visitors] } };
    serve({ "PUT /audiences/4": () => new Promise((resolve) => (done = () => resolve(saved))) });
    await user.dblClick(save());
    expect(sent("/audiences/4").map((one) => one.body)).toEqual([
      {
        name: "Visitors",
        folder: "",
        note: "",
        definition: { all: [visitors] },
        updated_at: kept.updated_at,
      },
    ]);
    done();
    await waitFor(() => expect(screen.getByText("version 4")).toBeTruthy());
    expect(location.search).toBe("");
  });

  it("keeps what is written while it is being saved", async () => {
    await shown();
    const field = screen.getByLabelText<HTMLInputElement>("Name of the audience");
    let done = () => {};
    serve({
      "PUT /audiences/4": ({ body }) =>
        new Promise((resolve) => (done = () => resolve({ ...kept, ...(body as object), version: 4 }))),
    });
    await user.type(field, " one");
    await user.click(save());
    await user.type(field, " two");
    done();
    await waitFor(() => expect(save()).toHaveProperty("disabled", false));
    expect(field.value).toBe("Commuters one two");
    expect(screen.getByText(/Unsaved draft/)).toBeTruthy();
  });

  it("finds its draft again after it has been signed out", async () => {
    const { unmount } = await shown();
    await user.type(screen.getByLabelText("Name of the audience"), " of Porto");
    condition(/who are visitor/).focus();
    await user.keyboard("{Delete}");
    await waitFor(() => expect(size()).toBe("900"));
    unmount();
    await shown();
    expect([size(), screen.getByLabelText<HTMLInputElement>("Name of the audience").value]).toEqual([
      "900",
      "Commuters of Porto",
    ]);
  });

  it("undoes undoing all changes, with the name", async () => {
    await shown();
    await user.type(screen.getByLabelText("Name of the audience"), " of Porto");
    await user.click(screen.getByRole("button", { name: "Discard changes" }));
    const name = () => screen.getByLabelText<HTMLInputElement>("Name of the audience").value;
    expect(name()).toBe("Commuters");
    await fireEvent.keyDown(window, { key: "z", ctrlKey: true });
    expect(name()).toBe("Commuters of Porto");
    await fireEvent.keyDown(window, { key: "y", ctrlKey: true });
    expect(name()).toBe("Commuters");
  });

  it("asks which is to stay where somebody else has saved it meanwhile", async () => {
    await shown();
    await user.type(screen.getByLabelText("Name of the audience"), " of Porto");
    serve({ "PUT /audiences/4": new Refused(409, "changed meanwhile") });
    serve({ "GET /audiences/4": theirs });
    await user.keyboard("{Control>}s{/Control}");
    expect((await screen.findByTestId("conflict")).textContent).toMatch(/Theirs, version 9/);
    serve({ "PUT /audiences/4": { ...theirs, version: 10, name: "Commuters of Porto" } });
    await user.click(screen.getByRole("button", { name: "Save mine instead" }));
    await waitFor(() => expect(screen.queryByTestId("conflict")).toBeNull());
    expect(last("/audiences/4").body).toMatchObject({
      name: "Commuters of Porto",
      updated_at: theirs.updated_at,
    });
  });

  it("can take over what somebody else saved, dropping its own changes", async () => {
    await shown();
    await user.type(screen.getByLabelText("Name of the audience"), "!");
    serve({ "PUT /audiences/4": new Refused(409, "changed meanwhile") });
    serve({ "GET /audiences/4": { ...theirs, definition: { all: [visitors] } } });
    await user.click(save());
    await user.click(await screen.findByRole("button", { name: /Take the saved one/ }));
    await waitFor(() => expect(size()).toBe("900"));
    expect(screen.getByLabelText("Name of the audience")).toHaveProperty("value", "Theirs");
    expect(save()).toHaveProperty("disabled", true);
  });

  it("says at once that a draft changes something older than what is saved", async () => {
    const { unmount } = await shown();
    await user.type(screen.getByLabelText("Name of the audience"), "!");
    unmount();
    serve({ "GET /audiences/4": theirs });
    await shown();
    expect((await screen.findByTestId("conflict")).textContent).toMatch(/Theirs, version 9/);
    expect(screen.getByLabelText("Name of the audience")).toHaveProperty("value", "Commuters!");
  });

  it("is not saved while it makes no sense or has no name", async () => {
    const { unmount } = await shown();
    serve({
      "POST /audiences/preview": new Refused(422, "the definition has faults", [
        { place: "all[0].attribute", message: "is no attribute" },
      ]),
    });
    condition(/who are visitor/).focus();
    await user.keyboard("{Delete}");
    expect((await screen.findByRole("alert")).textContent).toContain("Condition 1: is no attribute");
    expect(
      [...document.querySelectorAll("li.border-l-4")].map((one) => (one as HTMLElement).dataset.place),
    ).toEqual(["all[0]"]);
    expect(save()).toHaveProperty("disabled", true);
    expect([size(), screen.queryByText("View people")]).toEqual(["…", null]);
    expect(screen.getByText(/Reachable by/).closest(".invisible")).toBeTruthy();
    unmount();
    serve({ "POST /audiences/preview": ({ body }) => preview(body) });
    address.go(`/audiences/new?definition=${encodeURIComponent(JSON.stringify(definition))}`);
    await shown(null);
    expect(screen.getByText(/add a name to save it/)).toBeTruthy();
    expect(save()).toHaveProperty("disabled", true);
  });

  it("becomes an audience with an address of its own, and is deleted with a way back", async () => {
    const told = vi.spyOn(toaster, "create");
    address.go("/audiences/new?name=Everybody");
    const { unmount } = await shown(null);
    expect(screen.getByText("– all people.")).toBeTruthy();
    serve({ "POST /audiences": { ...kept, id: 12, name: "Everybody" } });
    await user.click(save());
    await waitFor(() => expect(address.path).toBe("/audiences/12"));
    unmount();
    await shown();
    serve({ "DELETE /audiences/4": new Refused(409, "used by “Weekly”") });
    await user.click(screen.getByRole("button", { name: "Delete" }));
    expect((await screen.findByRole("alert")).textContent).toContain("used by “Weekly”");
    serve({ "DELETE /audiences/4": kept, "POST /audiences/4/restore": kept });
    await user.click(screen.getByRole("button", { name: "Delete" }));
    await waitFor(() => expect(address.path).toBe("/audiences"));
    told.mock.calls.at(-1)![0].action!.onClick();
    await waitFor(() => expect(address.path).toBe("/audiences/4"));
  });

  it("stays as it is while JSON of another shape is written, and goes on once it makes sense", async () => {
    const text = JSON.stringify(definition);
    const faults = new Refused(422, "the definition has faults", [{ place: "all", message: "is no list" }]);
    serve({
      "POST /audiences/preview": ({ body }) =>
        JSON.stringify((body as { definition: object }).definition) === text ? preview(body) : faults,
    });
    await shown();
    const written = screen.getByLabelText("The definition as JSON");
    for (const odd of misshapen(definition)) {
      await fireEvent.input(written, { target: { value: JSON.stringify(odd) } });
      expect(screen.getByTestId("size"), JSON.stringify(odd)).toBeTruthy();
    }
    await fireEvent.input(written, { target: { value: text } });
    await waitFor(() => expect(screen.getByTestId("size").dataset.stale).toBe("false"));
    expect(screen.getAllByTestId("line")).toHaveLength(2);
  });

  it("says what of a list is not found", async () => {
    serve({
      "POST /audiences/preview": ({ body }) => ({ ...preview(body), lists: [lost, { ...lost, missing: 0 }] }),
    });
    await shown();
    const found = screen.getAllByText(/are not found/);
    expect(found.map((one) => one.textContent.replace(/\s+/g, " "))).toEqual([
      "3 of the 12 on the list are not found (customer IDs)",
    ]);
    expect(screen.getByText("F1, F2 and 1 more")).toBeTruthy();
  });

  it("offers viewers nothing that they may not do", async () => {
    session.known = signedIn({ role: "viewer" });
    await shown();
    expect(["Save", "Delete"].map((name) => screen.queryByRole("button", { name }))).toEqual([null, null]);
    expect(screen.queryByRole("link", { name: "Export" })).toBeNull();
    expect(screen.getByText("Only analysts and administrators can save changes.")).toBeTruthy();
    expect(screen.getByRole("button", { name: /Compare/i })).toBeTruthy();
  });

  it("says where there is no such audience", async () => {
    serve({ "GET /audiences/4": new Refused(404, "there is no audience 4") });
    render(AudienceEditor, { id: 4 });
    expect((await screen.findByRole("alert")).textContent).toContain("there is no audience 4");
  });
});
