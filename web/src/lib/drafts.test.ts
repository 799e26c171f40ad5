import { describe, expect, it } from "vitest";
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
