import { screen, waitFor } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { edited, tick, user, write } from "../../testing/editing";
import { serve } from "../../testing/server";
import type { Attribute, Comparison } from "../definition";
import { workspace } from "../../lib/workspace.svelte";
import CompareEditor from "./CompareEditor.svelte";
import ValueEditor from "./ValueEditor.svelte";
import { firstComparison, newAttribute } from "./values";

describe("values", () => {
  const values = { values: [..."abc"].map((value, index) => ({ value, count: 30 - index })) };
  const of = (comparison: Comparison, type: string, field: object | null = { attribute: "plan" }) =>
    edited(ValueEditor, "comparison", comparison, { type, field });

  it("are offered as they occur, completed by what is typed, or taken as typed", async () => {
    serve({ "GET /catalogue/values": values });
    const { now, close } = of({ compare: "is", value: "b" }, "text");
    await waitFor(() => expect(screen.getAllByRole("option")).toHaveLength(3));
    await user.type(screen.getByRole("combobox"), "{ArrowDown}{ArrowDown}{ArrowUp}{Enter}");
    expect(now().value).toBe("b");
    await user.type(screen.getByRole("combobox"), "yearly{Enter}");
    expect(now().value).toBe("yearly");
    expect(close).toHaveBeenCalledTimes(2);
    await tick("ignore case");
    expect(now()).toEqual({ compare: "is", value: "yearly", ignore_case: true });
  });

  it("are several where that is asked for, one at least", async () => {
    serve({ "GET /catalogue/values": values });
    const { now } = of({ compare: "one_of", value: ["a"] }, "text");
    expect(screen.queryByRole("button", { name: "Remove a" })).toBeNull();
    await waitFor(() =>
      expect(screen.getAllByRole("option").map((row) => row.textContent![0])).toEqual(["b", "c"]),
    );
    await user.click(screen.getAllByRole("option")[1]!);
    expect(now().value).toEqual(["a", "c"]);
    await user.click(screen.getByRole("button", { name: "Remove a" }));
    expect(now().value).toEqual(["c"]);
  });

  it("make a range that does not turn round, and yes or no", async () => {
    const { now } = of({ compare: "between", value: [2, 5] }, "number");
    await write("From", "7{Tab}");
    expect(now().value).toEqual([7, 7]);
    await write("To", "4{Tab}");
    expect(now().value).toEqual([4, 4]);
  });

  it("begin with what is likely meant by the type of the field", async () => {
    serve({ "GET /catalogue/values": values });
    const types = ["text", "number", "boolean", "date", "list"] as const;
    workspace.catalogue = {
      ...workspace.catalogue!,
      attributes: types.map((type, id) => ({ ...workspace.catalogue!.attributes[0]!, id, name: type, type })),
    };
    expect(await Promise.all(types.map((name) => newAttribute(name)))).toEqual([
      { name: "text", compare: "is", value: "a" },
      { name: "number", compare: "at_least", value: 1 },
      { name: "boolean", compare: "is", value: true },
      { name: "date", compare: "after", value: "2026-10-01" },
      { name: "list", compare: "contains", value: "a" },
    ]);
    expect(await firstComparison({ property: "channel" })).toEqual({ compare: "is_set" });
  });

  it("fit the comparison that is chosen", async () => {
    const others = { type: "text", measured: false, ever: false, fallback: async () => "a" };
    const first: Attribute = { name: "plan", compare: "is_set" };
    const { now } = edited<Attribute>(CompareEditor, "comparison", first, others);
    await user.type(screen.getByRole("combobox"), "is one{Enter}");
    await waitFor(() => expect(now()).toEqual({ name: "plan", compare: "one_of", value: ["a"] }));
    await tick("at any time, not only now");
    expect(now()).toMatchObject({ compare: "one_of", ever: true });
  });
});
