import { render, screen, waitFor } from "@testing-library/svelte";
import { describe, expect, it, vi } from "vitest";
import { dateOf, shortcuts } from "../lib/dates";
import { user, write } from "../testing/editing";
import DateField from "./DateField.svelte";

describe("a date as people type it", () => {
  it.each([
    ["2026-10-31", "2026-10-31"],
    ["31 Oct 2026", "2026-10-31"],
    ["31. October 2026", "2026-10-31"],
    [" 1  sept 2026 ", "2026-09-01"],
    ["3/4/2025", "2025-04-03"],
    ["03.04.2025", "2025-04-03"],
    ["29 Feb 2024", "2024-02-29"],
    ["yesterday", "2026-11-25"],
    ["Last Sunday", "2026-11-22"],
    ["end of last month", "2026-10-31"],
    ["29 Feb 2025", null],
    ["31.4.2025", null],
    ["13/13/2025", null],
    ["31 Nonsense 2026", null],
    ["soon", null],
    ["", null],
  ])("%s", (text, iso) => expect(dateOf(text, "2026-11-26")).toBe(iso));

  it("has shortcuts that lie before the day, also on a Sunday and in January", () => {
    expect(shortcuts("2026-11-22")[1]).toEqual(["last Sunday", "2026-11-15"]);
    expect(shortcuts("2026-01-01")[2]).toEqual(["end of last month", "2025-12-31"]);
  });
});

describe("a date field", () => {
  function shown(more: object = {}) {
    const change = vi.fn();
    render(DateField, { label: "From", value: "2026-10-05", most: "2026-10-31", change, ...more });
    return { change, field: screen.getByLabelText<HTMLInputElement>("From") };
  }

  it("shows the date in the product's form and takes what is typed", async () => {
    const { change, field } = shown();
    expect(field.value).toBe("5 Oct 2026");
    await write("From", "7.10.2026{Enter}");
    expect(change.mock.lastCall).toEqual(["2026-10-07"]);
  });

  it("says what is wrong, keeps the text, and goes back on Escape", async () => {
    const { change, field } = shown();
    await write("From", "1 Nov 2026{Enter}");
    expect(screen.getByRole("alert").textContent).toBe("The latest date here is 31 Oct 2026.");
    await write("From", "whenever{Enter}");
    expect(screen.getByRole("alert").textContent).toMatch(/“whenever” is not a date. Write it as/);
    expect(field.getAttribute("aria-invalid")).toBe("true");
    await user.type(field, "{Escape}");
    expect([field.value, screen.queryByRole("alert"), change.mock.calls]).toEqual(["5 Oct 2026", null, []]);
  });

  it("moves by days with the arrow keys, within its limits", async () => {
    const { change, field } = shown({ value: "2026-10-30" });
    await user.type(field, "{ArrowUp}{ArrowUp}{ArrowUp}{Enter}");
    expect(change.mock.lastCall).toEqual(["2026-10-31"]);
  });

  it("may be emptied only where that means something", async () => {
    const { change, field } = shown();
    await user.clear(field);
    await user.type(field, "{Enter}");
    expect(change).not.toHaveBeenCalled();
    const other = vi.fn();
    render(DateField, { label: "Received by", value: "2026-10-05", optional: true, change: other });
    await user.clear(screen.getByLabelText("Received by"));
    await user.type(screen.getByLabelText("Received by"), "{Enter}");
    expect(other.mock.lastCall).toEqual([""]);
  });

  it("opens a calendar to choose from", async () => {
    const { change } = shown();
    await user.click(screen.getByRole("button", { name: "Calendar: From" }));
    await user.click(await screen.findByRole("button", { name: /12 October 2026/ }, { timeout: 5000 }));
    await waitFor(() => expect(change.mock.lastCall).toEqual(["2026-10-12"]));
  });
});
