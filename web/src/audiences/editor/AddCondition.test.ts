import { render, screen } from "@testing-library/svelte";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { user } from "../../testing/editing";
import { serve } from "../../testing/server";
import AddCondition from "./AddCondition.svelte";
import { opening } from "./opening";

beforeEach(() => localStorage.clear());

/** The end of a sentence; tells what has been added. */
function ending() {
  const add = vi.fn();
  render(AddCondition, { word: "People", place: "all[0]", add });
  return add;
}

describe("a condition that is begun", () => {
  it("asks for its first choice, takes the one that fits what is typed, and goes on to the next phrase", async () => {
    const add = ending();
    await user.click(screen.getByRole("button", { name: "who did …" }));
    expect(add).not.toHaveBeenCalled();
    await user.keyboard("pass{Enter}");
    expect(add.mock.calls).toEqual([
      [{ did: { event: "pass_bought", count: { at_least: 1 }, window: { last_days: 30 } } }],
    ]);
    expect([opening.takes("all[0]", "window", "did"), opening.takes("all[0]", "count", "did")]).toEqual([
      false,
      true,
    ]);
    expect(opening.takes("all[0]", "count", "did")).toBe(false);
  });

  it("offers what was chosen last first, and finds by the raw name too", async () => {
    ending();
    await user.click(screen.getByRole("button", { name: "who did …" }));
    await user.keyboard("message_o{Enter}");
    await user.click(screen.getByRole("button", { name: "who did …" }));
    const offered = screen.getAllByRole("option").map((option) => option.title);
    expect(offered).toEqual(["message_opened", "ride_ended", "pass_bought"]);
  });

  it("is left by Escape or a click elsewhere without being added", async () => {
    const add = ending();
    const begin = screen.getByRole("button", { name: "who are in a state …" });
    await user.click(begin);
    await user.keyboard("{Escape}");
    expect(screen.queryByRole("listbox")).toBeNull();
    expect(document.activeElement).toBe(begin);
    await user.click(begin);
    await user.click(document.body);
    expect(screen.queryByRole("listbox")).toBeNull();
    expect(add).not.toHaveBeenCalled();
  });

  it("begins as each offer says", async () => {
    serve({ "GET /catalogue/values": { values: [{ value: "yearly", count: 9 }] } });
    const add = ending();
    await user.click(screen.getByRole("button", { name: "whose attribute …" }));
    await user.click(screen.getByRole("option", { name: /plan/ }));
    await vi.waitFor(() => expect(add).toHaveBeenCalled());
    expect(add.mock.calls[0]).toEqual([{ attribute: { name: "plan", compare: "is", value: "yearly" } }]);
  });
});
