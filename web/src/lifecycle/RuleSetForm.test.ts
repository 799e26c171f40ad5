import { cleanup, render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { answerOf, tableOf } from "../testing/answers";
import { audienceRow } from "../testing/examples";
import { last, ruleSet, Refused, sent, serve } from "../testing/server";
import RuleSetForm from "./RuleSetForm.svelte";

const effect = answerOf(
  "rules-effect",
  {
    ...{ states: ["active", "dormant"], changed: 40, rules: ruleSet },
    ...{ before: [100, 50], after: [60, 90] },
    table: [
      [60, 40],
      [0, 50],
    ],
  },
  {
    finding: "40 of 150 people would change state (27%).",
    tables: [
      tableOf("states", ["state:state", "after:people"], { values: ["dormant", 90] }),
      tableOf("changes", ["before:state", "dormant:people"], { values: ["active", 40] }),
    ],
  },
);
const start = { ...ruleSet, name: "Riders", activity: ["ride_ended"] };

beforeEach(() =>
  serve({
    "GET /audiences": { audiences: [audienceRow(4, "Commuters")] },
    "POST /analyses/rules-effect": effect,
    "GET /rule-sets": { rule_sets: [ruleSet] },
  }),
);

function shown(changed: object | null = ruleSet) {
  const done = vi.fn();
  render(RuleSetForm, { ruleSet: changed as never, start: start as never, done });
  return { done, user: userEvent.setup() };
}
const [newFor, dormant, churned] = [0, 1, 2];
const days = (which: number) => screen.getAllByRole("spinbutton")[which]!;

describe("a ruleSet", () => {
  it("has to leave room for each state before it can be kept", async () => {
    const { user } = shown();
    const keep = screen.getByRole("button", { name: "Save rule set" });
    expect(keep).toHaveProperty("disabled", false);
    await user.clear(days(dormant));
    await user.type(days(dormant), "90");
    expect(screen.getByRole("alert").textContent).toContain("Churned must start later than dormant");
    expect(keep).toHaveProperty("disabled", true);
    await user.clear(days(newFor));
    expect(screen.getByRole("alert").textContent).toContain("whole numbers of days, 1 or more");
    await user.type(days(newFor), "7");
    await user.clear(days(churned));
    await user.type(days(churned), "91");
    expect(screen.queryByRole("alert")).toBeNull();
    expect(keep).toHaveProperty("disabled", false);
  });

  it("tells before it is kept who would change state", async () => {
    const { user } = shown();
    const found = await screen.findByTestId("rule-set-effect");
    expect(found.textContent).toContain("40 of 150 people would change state (27%).");
    expect(within(found).getByRole("row", { name: /dormant 90/ })).toBeTruthy();
    expect(within(found).getByRole("table", { name: "changes" })).toBeTruthy();
    await user.selectOptions(screen.getByLabelText("Applies to"), "Commuters");
    await waitFor(() =>
      expect(last("/analyses/rules-effect").body).toMatchObject({ tried: { population: 4 } }),
    );
  });

  it("keeps its draft when it is left, until it is saved or given up", async () => {
    const first = shown();
    await first.user.type(screen.getByLabelText("Name"), "!");
    cleanup();
    const { user, done } = shown();
    expect(screen.getByLabelText<HTMLInputElement>("Name").value).toMatch(/!$/);
    expect(screen.getByText(/This is your draft/)).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    expect(done).toHaveBeenCalled();
    cleanup();
    shown();
    expect(screen.queryByText(/This is your draft/)).toBeNull();
  });

  it("is kept once, and keeps what was written where somebody else was first", async () => {
    const { user, done } = shown();
    await user.clear(screen.getByLabelText("Name"));
    await user.type(screen.getByLabelText("Name"), "All riders");
    serve({ "PUT /rule-sets/7": new Refused(409, "somebody else has changed this rule set") });
    await user.click(screen.getByRole("button", { name: "Save rule set" }));
    expect((await screen.findByRole("alert")).textContent).toContain("somebody else");
    expect(screen.getByLabelText("Name")).toHaveProperty("value", "All riders");
    expect(done).not.toHaveBeenCalled();
    const two = [
      { place: "activity[0]", message: "is no event type" },
      { place: "activity[0]", message: "has a condition on nothing" },
    ];
    serve({ "PUT /rule-sets/7": new Refused(422, "this makes no sense", two) });
    await user.click(screen.getByRole("button", { name: "Save rule set" }));
    await waitFor(() => expect(screen.getByRole("alert").children).toHaveLength(2));
    let answer = () => {};
    serve({ "PUT /rule-sets/7": () => new Promise((resolve) => (answer = () => resolve(ruleSet))) });
    await user.dblClick(screen.getByRole("button", { name: "Save rule set" }));
    expect(sent("/rule-sets/7")).toHaveLength(3);
    answer();
    await waitFor(() => expect(done).toHaveBeenCalledTimes(1));
    expect(last("/rule-sets/7").body).toMatchObject({
      name: "All riders",
      active_within: 30,
      churned_after: 90,
    });
  });

  it("may be a new one", async () => {
    const { user, done } = shown(null);
    serve({ "POST /rule-sets": { ...ruleSet, id: 8 } });
    await user.selectOptions(screen.getByLabelText("Reachable by"), "sms");
    await user.click(screen.getByRole("button", { name: "Save rule set" }));
    await waitFor(() => expect(done).toHaveBeenCalled());
    expect(last("/rule-sets").method).toBe("GET");
    expect(sent("/rule-sets")[0]!.body).toMatchObject({ name: "Riders", channel: "sms", population: null });
  });
});
