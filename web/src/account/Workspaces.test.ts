import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { session } from "../lib/session.svelte";
import WorkspaceSwitch from "../shell/WorkspaceSwitch.svelte";
import { account, Refused, sent, serve, signedIn } from "../testing/server";
import type { Schemas } from "../lib/api/client";
import Workspaces from "./Workspaces.svelte";

function row(more: Partial<Schemas["InstalledWorkspace"]> = {}): Schemas["InstalledWorkspace"] {
  return {
    id: 3,
    name: "shop",
    title: "The shop",
    state: "open",
    problem: null,
    made_by: account.email,
    created_at: "2026-11-29T10:00:00Z",
    base: "/w/shop",
    accounts: 1,
    ...more,
  };
}

const here = account.workspaces[0]!;
const shop = { name: "shop", title: "The shop", role: "analyst", base: "/w/shop", here: false } as const;
const list = (...rows: Schemas["InstalledWorkspace"][]) => ({ workspaces: rows });

describe("workspaces", () => {
  it("are made; a name that is taken is said and nothing typed is lost", async () => {
    serve({
      "GET /workspaces": list(),
      "POST /workspaces": new Refused(422, "Name is taken already"),
    });
    render(Workspaces);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("New workspace"), "The shop");
    await user.type(screen.getByLabelText("at the address /w/"), "shop{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("taken");
    expect(screen.getByLabelText("at the address /w/")).toHaveProperty("value", "shop");
    serve({
      "POST /workspaces": row({ state: "being made" }),
      "GET /workspaces": list(row({ state: "being made", problem: "the disk is full" })),
      "GET /session": signedIn(),
    });
    await user.click(screen.getByRole("button", { name: "Create workspace" }));
    expect(await screen.findByText("Error: the disk is full")).toBeTruthy();
    expect(sent("/workspaces").at(-1)!.body).toEqual({ name: "shop", title: "The shop" });
  });

  it("are archived before they are removed, which takes the name once more", async () => {
    serve({
      "GET /workspaces": list(row()),
      "GET /session": signedIn(),
      "PUT /workspaces/3": row({ state: "archived" }),
      "DELETE /workspaces/3": row({ state: "being removed" }),
    });
    render(Workspaces);
    const user = userEvent.setup();
    const open = within(await screen.findByTestId("installed"));
    expect(open.getByRole("link", { name: "/w/shop" })).toHaveProperty("target", "_self");
    expect(open.queryByRole("button", { name: "Remove The shop" })).toBeNull();
    serve({ "GET /workspaces": list(row({ state: "archived" })) });
    await user.click(open.getByRole("button", { name: "Archive The shop" }));
    await user.click(await screen.findByRole("button", { name: "Remove The shop" }));
    const go = screen.getByRole("button", { name: "Delete workspace" });
    expect(go).toHaveProperty("disabled", true);
    await user.type(screen.getByLabelText(/Type shop to confirm/), "shop");
    await user.click(go);
    await waitFor(() => expect(sent("/workspaces/3")).toHaveLength(2));
    expect(sent("/workspaces/3")[1]!.query).toEqual({ name: "shop" });
  });

  it("take definitions from another one, after it has been seen what changes", async () => {
    session.known = signedIn({ workspaces: [here, shop] });
    serve({
      "GET /workspaces": list(row()),
      "POST /workspace/definitions": {
        definitions: [
          { kind: "audience", name: "Base", what: "new", differences: ["rode at least twice"] },
          { kind: "rule_set", name: "Usual", what: "same", differences: [] },
        ],
      },
    });
    render(Workspaces);
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: "Preview changes" }));
    expect(await screen.findByText("1 of 2 would change:")).toBeTruthy();
    expect(screen.getByText(/New: Audience “Base”/).textContent).toContain("rode at least twice");
    await user.click(screen.getByRole("button", { name: "Copy definitions" }));
    expect(await screen.findByText("Definitions copied.")).toBeTruthy();
    expect(sent("/workspace/definitions").map((one) => one.body)).toEqual([
      { from: "shop", check: true },
      { from: "shop", check: false },
    ]);
  });

  it("are gone to from the top of every page, where there is more than one", async () => {
    render(WorkspaceSwitch);
    expect(screen.queryByRole("button", { name: /^Workspace / })).toBeNull();
    session.known = signedIn({ workspaces: [here, shop] });
    await userEvent.click(await screen.findByRole("button", { name: "Workspace Main" }));
    const link = within(await screen.findByTestId("workspaces")).getByRole("link", { name: "The shop" });
    expect([link.getAttribute("href"), link.getAttribute("target")]).toEqual(["/w/shop/", "_self"]);
  });
});
