import { render, screen, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { accountRow } from "../testing/examples";
import { account, Refused, sent, serve } from "../testing/server";
import Accounts from "./Accounts.svelte";

describe("accounts", () => {
  const vi = accountRow(2, "vi@estrel.example", { set_up: false });

  it("are made with a link, and change their role; the last administrator stays one", async () => {
    const all = {
      first: true,
      roles: ["viewer", "analyst", "administrator"],
      accounts: [accountRow(account.id, account.email, { role: "administrator" }), vi],
    };
    serve({ "GET /accounts": all, "POST /accounts": { ...vi, link: "http://127.0.0.1/link/k" } });
    render(Accounts);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("New account for"), vi.email);
    await user.selectOptions(screen.getByLabelText("as"), "viewer");
    await user.click(screen.getByRole("button", { name: "Create account" }));
    expect((await screen.findByTestId("link")).textContent).toContain("http://127.0.0.1/link/k");
    expect(sent("/accounts")[0]!.body).toEqual({ email: vi.email, role: "viewer" });
    const row = within(screen.getByText(vi.email, { selector: "td" }).closest("tr")!);
    expect(row.getByText("no password yet")).toBeTruthy();
    serve({
      "PUT /accounts/2": { ...vi, disabled: true, link: null },
      "PUT /accounts/1": new Refused(409, "there has to be an administrator"),
    });
    await user.click(row.getByRole("button", { name: `Deactivate ${vi.email}` }));
    expect(sent("/accounts/2")[0]!.body).toEqual({ disabled: true });
    await user.selectOptions(screen.getByLabelText(`Role of ${account.email}`), "viewer");
    expect((await screen.findByRole("alert")).textContent).toContain("has to be an administrator");
  });

  it("are let into another workspace, where nobody deactivates them", async () => {
    serve({
      "GET /accounts": { first: false, roles: ["viewer", "analyst", "administrator"], accounts: [vi] },
      "POST /accounts": { ...vi, set_up: null, link: "http://127.0.0.1/link/k" },
    });
    render(Accounts);
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText("Add user"), vi.email);
    await user.click(screen.getByRole("button", { name: "Add user" }));
    expect((await screen.findByTestId("link")).textContent).toContain("People who already have an account");
    expect(screen.queryByRole("button", { name: `Deactivate ${vi.email}` })).toBeNull();
  });
});
