import { render, screen } from "@testing-library/svelte";
import { describe, expect, it, vi } from "vitest";
import Own from "../account/Own.svelte";
import SourceForm from "../data/SourceForm.svelte";
import { user, write } from "../testing/editing";
import { ownAccount, serve } from "../testing/server";
import { address } from "./address.svelte";
import { FormDraft } from "./formDraft";
import { rebased } from "./rebased";

describe("a form that is saved", () => {
  it("takes the server's answer, but keeps what was written while the answer was on its way", () => {
    const sent = { name: "…one", rules: { days: 3 }, note: "" };
    const now = { name: "…one two three", rules: { days: 3 }, note: "" };
    const saved = { name: "…one", rules: { days: 3, mode: "whole" }, note: "trimmed" };
    expect(rebased(now, sent, saved)).toEqual({ ...saved, name: "…one two three" });
    expect(rebased(sent, sent, saved)).toEqual(saved);
  });
});

describe("a draft of a form", () => {
  it("is what differs from the saved form, until it is saved or given up", () => {
    const saved = { name: "Riders", days: 30 };
    const draft = new FormDraft<typeof saved>("rules-1");
    expect(draft.read(saved)).toBeNull();
    draft.keep({ name: "Riders", days: 45 }, saved);
    expect(new FormDraft<typeof saved>("rules-1").read({ name: "Renamed", days: 30 })).toEqual({
      name: "Renamed",
      days: 45,
    });
    expect(new FormDraft<typeof saved>("rules-2").read(saved)).toBeNull();
    draft.keep(saved, saved);
    expect(draft.read(saved)).toBeNull();
  });

  it("leaves out fields that the form does not have any more", () => {
    new FormDraft<{ name: string; old: number }>("x").keep({ name: "b", old: 2 }, { name: "a", old: 1 });
    expect(new FormDraft<{ name: string }>("x").read({ name: "a" })).toEqual({ name: "b" });
  });
});

describe("a form", () => {
  const name = () => screen.getByLabelText<HTMLInputElement>("Name").value;
  const open = (done = vi.fn()) => render(SourceForm, { done });

  it("is as it was left when it is opened again, until it is saved or given up", async () => {
    const times = { created_at: "2026-10-31T10:00:00Z" };
    const kiosk = {
      id: 9,
      name: "kiosk",
      description: "",
      allowed_types: null,
      events_per_minute: null,
      keys: [],
    };
    serve({ "POST /sources": { source: { ...kiosk, ...times }, key: "ek_1" } });
    const { unmount } = open();
    await write("Name", "kiosk");
    unmount();
    const done = vi.fn();
    const again = open(done);
    expect(name()).toBe("kiosk");
    await user.click(screen.getByRole("button", { name: "Add source" }));
    await vi.waitFor(() => expect(done).toHaveBeenCalled());
    again.unmount();
    const third = open();
    expect(name()).toBe("");
    await write("Name", "web");
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    third.unmount();
    open();
    expect(name()).toBe("");
  });

  it("that keeps no draft has the user asked before it is left", async () => {
    serve({ "GET /account": ownAccount });
    const asked = vi.spyOn(globalThis, "confirm").mockReturnValue(false);
    address.go("/account");
    render(Own);
    const field = await screen.findByLabelText(/New password/);
    await user.type(field, "correct horse");
    address.go("/people");
    expect([address.path, asked.mock.calls.length]).toEqual(["/account", 1]);
    address.go("/account?part=tokens");
    expect(asked).toHaveBeenCalledTimes(1);
    const unload = new Event("beforeunload", { cancelable: true });
    expect(dispatchEvent(unload)).toBe(false);
    asked.mockReturnValue(true);
    address.go("/people");
    expect(address.path).toBe("/people");
    await user.clear(field);
    address.go("/exports");
    expect(asked).toHaveBeenCalledTimes(2);
    asked.mockRestore();
  });
});

describe("what is noted in the address", () => {
  it("can be read at once, before anything goes anywhere", () => {
    address.go("/exports/new?audience=3");
    address.note({ export: "{}" });
    expect([address.get("export"), address.noted("export"), address.noted("audience")]).toEqual([
      null,
      "{}",
      "3",
    ]);
    address.go("/people?definition=broken");
    expect(address.noted("definition")).toBeNull();
  });
});
