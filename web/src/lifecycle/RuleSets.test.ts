import { render, screen, waitFor, within } from "@testing-library/svelte";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { address } from "../lib/address.svelte";
import { toaster } from "../lib/toasts.svelte";
import { workspace } from "../lib/workspace.svelte";
import { user } from "../testing/editing";
import type { Schemas } from "../lib/api/client";
import { session } from "../lib/session.svelte";
import { ruleSet, Refused, sent, serve, signedIn } from "../testing/server";
import RuleSets from "./RuleSets.svelte";

const rules = (id: number, name: string, more: Partial<Schemas["RuleSet"]> = {}): Schemas["RuleSet"] => ({
  ...{ ...ruleSet, id, name, default: false, version: 2 },
  ...more,
});
const riders = rules(7, "Riders", { default: true, activity: ["ride_ended"] });
const near = { property: "distance_km", compare: "less", value: 2 };
const far = { property: "distance_km", compare: "greater", value: 9 };
const strict = rules(8, "Strict", {
  ...{ active_within: 14, churned_after: 45, channel: "sms", population: 4, population_name: "Commuters" },
  activity: [{ event: "ride_ended", where: [near, far] }, "pass_bought"],
  hidden: ["pass_bought"],
});

beforeEach(() => {
  workspace.ruleSets = [riders, strict];
  serve({ "GET /rule-sets": { rule_sets: [riders, strict] } });
});
const lines = () => within(screen.getByTestId("rule-sets")).getAllByRole("listitem");

describe("the lifecycle rules", () => {
  it("say in a sentence what each makes of people, and what it rests on that is gone", () => {
    render(RuleSets);
    expect(lines()[0]!.textContent).toContain("default");
    const said = lines()[1]!.textContent!.replace(/\s+/g, " ");
    expect(said).toContain("dormant after 14 inactive days");
    expect(said).toContain("churned after 45");
    expect(said).toContain(
      "ride ended (with 2 conditions) and pass bought, among “Commuters”, reachable by sms.",
    );
    expect(said).toContain("pass_bought is hidden");
    expect(screen.queryByRole("button", { name: "Delete Riders" })).toBeNull();
  });

  it("are only read by viewers, who learn who can change them", () => {
    session.known = signedIn({ role: "viewer" });
    render(RuleSets);
    expect(screen.getAllByRole("button").map((one) => one.textContent)).toEqual(["Version history", "Version history"]);
    expect(screen.queryByRole("link", { name: /Change|New rule set/ })).toBeNull();
    expect(screen.getByText("Only analysts and administrators can change rule sets.")).toBeTruthy();
  });

  it("are made the default and deleted with a way back each; what uses one is told", async () => {
    render(RuleSets);
    const told = vi.spyOn(toaster, "create");
    const undo = () => told.mock.calls.at(-1)![0].action!.onClick();
    serve({ "PUT /rule-sets/8": { ...strict, default: true }, "PUT /rule-sets/7": riders });
    await user.click(screen.getByRole("button", { name: "Make default: Strict" }));
    await waitFor(() => expect(told.mock.calls.at(-1)?.[0].title).toBe("“Strict” is now the default"));
    undo();
    await waitFor(() => expect(sent("/rule-sets/7").map((one) => one.body)).toEqual([{ default: true }]));
    serve({
      "DELETE /rule-sets/8": new Refused(409, "other things use it", [
        { place: "Winter", message: "an audience" },
      ]),
    });
    await user.click(screen.getByRole("button", { name: "Delete Strict" }));
    expect((await screen.findByRole("alert")).textContent).toContain("Winter: an audience");
    serve({ "DELETE /rule-sets/8": strict, "POST /rule-sets/8/restore": strict });
    await user.click(screen.getByRole("button", { name: "Delete Strict" }));
    await waitFor(() => expect(told.mock.calls.at(-1)![0].title).toBe("“Strict” has been deleted"));
    expect(screen.queryByRole("alert")).toBeNull();
    undo();
    await waitFor(() => expect(sent("/rule-sets/8/restore")).toHaveLength(1));
  });

  it("keep their versions, and an earlier one becomes the newest again as it was", async () => {
    const version = (number: number, active_within: number) => ({
      ...{ ...strict, number, active_within, author: "ana@estrel.example" },
      created_at: "2026-10-01T08:00:00Z",
    });
    serve({
      "GET /rule-sets/8": { ...strict, versions: [version(2, 14), version(1, 21)] },
      "PUT /rule-sets/8": strict,
    });
    render(RuleSets);
    const open = screen.getByRole("button", { name: "Version history of Strict" });
    await user.click(open);
    await user.click(await screen.findByRole("button", { name: "Restore this version" }));
    await waitFor(() => expect(sent("/rule-sets/8")).toHaveLength(1));
    expect(sent("/rule-sets/8")[0]!.body).toEqual({
      ...{ activity: strict.activity, new_for: 30, active_within: 21, churned_after: 45 },
      ...{ population: 4, channel: "sms" },
    });
    await user.click(open);
    await waitFor(() => expect(open.getAttribute("aria-expanded")).toBe("false"));
  });

  it("are changed beginning with the day counts that were tried, by address", async () => {
    serve({
      "GET /audiences": { audiences: [] },
      "POST /analyses/rules-effect": new Refused(503, "not now"),
    });
    address.go("/lifecycle/rules?edit=8&dormant=20&churned=60");
    render(RuleSets);
    expect(screen.getByRole("heading", { name: "Edit “Strict”" })).toBeTruthy();
    expect(
      screen
        .getAllByRole("spinbutton")
        .slice(0, 3)
        .map((field) => (field as HTMLInputElement).value),
    ).toEqual([...["30", "20", "60"]]);
    address.go("/lifecycle/rules?edit=new");
    expect(await screen.findByRole("heading", { name: "New rule set" })).toBeTruthy();
    expect(screen.getByLabelText("Name")).toHaveProperty("value", "");
  });
});
