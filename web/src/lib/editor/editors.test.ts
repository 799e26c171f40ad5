import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import type { Component } from "svelte";
import { describe, expect, it, vi } from "vitest";
import { serve } from "../../testing/server";
import type {
  Attribute,
  Campaign,
  Comparison,
  Did,
  Lifecycle,
  Rhythm,
  Selection,
  Step,
  Window,
} from "../definition";
import { workspace } from "../workspace.svelte";
import CampaignEditor from "./CampaignEditor.svelte";
import CompareEditor from "./CompareEditor.svelte";
import CountEditor from "./CountEditor.svelte";
import EventsEditor from "./EventsEditor.svelte";
import LinkEditor from "./LinkEditor.svelte";
import RhythmEditor from "./RhythmEditor.svelte";
import StatesEditor from "./StatesEditor.svelte";
import { firstComparison, newAttribute } from "./values";
import ValueEditor from "./ValueEditor.svelte";
import WindowEditor from "./WindowEditor.svelte";

Element.prototype.scrollIntoView = () => {}; // there is nothing to scroll
const user = userEvent.setup();

/** An editor whose piece is what was made of it last; tells what that is. */
function edited<T>(editor: unknown, prop: string, first: T, others: object = {}) {
  let piece = first;
  const close = vi.fn();
  const change = async (next: T) => {
    piece = next;
    await rerender({ [prop]: next });
  };
  const { rerender } = render(editor as Component<Record<string, unknown>>, {
    [prop]: first,
    change,
    close,
    ...others,
  });
  return { now: () => piece, close };
}
const pick = (label: string, text: string) => user.selectOptions(screen.getByLabelText(label), text);
const tick = (label: string | RegExp) => user.click(screen.getAllByLabelText(label)[0]!);
async function write(label: string, text: string) {
  await user.clear(screen.getByLabelText(label));
  await user.type(screen.getByLabelText(label), text);
}

describe("how often", () => {
  it("keeps the numbers and the unit from one way of counting to the next", async () => {
    const { now, close } = edited<Did>(CountEditor, "did", { event: "ride_ended", count: { at_least: 3 } });
    await pick("Counted by", "different days");
    expect(now().count).toEqual({ at_least: 3, of: "days" });
    await pick("How often", "between");
    expect(now().count).toEqual({ between: [3, 4], of: "days" });
    await write("Times at most", "2");
    expect(now().count).toEqual({ between: [3, 3], of: "days" });
    await pick("How often", "at most");
    await write("Times", "0");
    expect(now().count).toEqual({ at_most: 0, of: "days" });
    await pick("How often", "at least");
    expect(now().count).toEqual({ at_least: 1, of: "days" });
    await pick("How often", "not at all");
    expect(now()).toEqual({ event: "ride_ended", count: { exactly: 0 } });
    expect(screen.queryByLabelText("Times")).toBeNull();
    await pick("How often", "exactly");
    await user.type(screen.getByLabelText("Times"), "{Enter}");
    expect(close).toHaveBeenCalled();
  });

  it("measures a property in the ways its type allows", async () => {
    serve({ "GET /catalogue/values": { values: [{ value: "app", count: 9 }] } });
    const { now } = edited<Did>(CountEditor, "did", { event: "ride_ended" });
    await pick("How often", "by a property …");
    expect(now().measure).toEqual({ of: "distance_km", take: "sum", compare: "at_least", value: 1 });
    await pick("Of which property", "channel");
    await waitFor(() =>
      expect(now().measure).toEqual({ of: "channel", take: "most_frequent", compare: "is", value: "app" }),
    );
    const takes = [...screen.getByLabelText("What is taken").children].map((option) => option.textContent);
    expect(takes).toEqual(["number of different", "first", "last", "most frequent"]);
    await pick("What is taken", "number of different");
    expect(now().measure).toEqual({ of: "channel", take: "distinct", compare: "at_least", value: 1 });
    await pick("How often", "at least");
    expect(now()).toEqual({ event: "ride_ended", count: { at_least: 1 } });
  });
});

describe("when", () => {
  it("goes from days to dates and back, never from later to earlier", async () => {
    const { now } = edited<Window>(WindowEditor, "window", { last_days: 14 });
    await write("Days", "40000");
    expect(now()).toEqual({ last_days: 36500 });
    await pick("When", "between two dates");
    expect(now()).toEqual({ from: "2026-10-02", to: "2026-10-31" });
    await write("to", "2026-09-01");
    expect(now()).toEqual({ from: "2026-09-01", to: "2026-09-01" });
    await pick("When", "on or after a date");
    expect(now()).toEqual({ from: "2026-09-01" });
    await pick("When", "within … days of being first seen");
    expect(now()).toEqual({ first_days: 7 });
    await pick("When", "at any time");
    expect(now()).toEqual({ ever: true });
  });

  it("keeps weekdays and hours beside any stretch of time", async () => {
    const { now } = edited<Window>(WindowEditor, "window", { last_days: 14 });
    await tick("Saturdays");
    await tick("Sundays");
    await tick("from");
    await write("From hour", "6");
    expect(now()).toEqual({ last_days: 14, weekdays: [6, 7], hours: [6, 18] });
    await pick("When", "in the last … hours");
    expect(now()).toEqual({ last_hours: 24, weekdays: [6, 7], hours: [6, 18] });
    await tick("Saturdays");
    await tick("Sundays");
    await tick("from");
    expect(now()).toEqual({ last_hours: 24 });
  });
});

describe("which state", () => {
  it("keeps one state at least, in their order, and when", async () => {
    const { now } = edited<Lifecycle>(StatesEditor, "lifecycle", { is: ["dormant"] });
    expect(screen.getAllByLabelText("dormant")[0]).toHaveProperty("disabled", true);
    await tick("churned");
    await tick("new");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"] });
    await tick("and had just come back after being quiet");
    await pick("When", "entered in the last … days");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"], entered_last_days: 7, returned: true });
    await tick("from unseen");
    await write("Days", "30");
    expect(now()).toMatchObject({ entered_last_days: 30, from: ["unseen"] });
    await pick("When", "for at least … days");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"], for_at_least_days: 30 });
    await pick("When", "on a date");
    expect(now()).toMatchObject({ on: "2026-10-31" });
  });

  it("may go by another policy, in a version of it", async () => {
    workspace.policies = [{ ...workspace.policies[0]!, version: 2 }];
    const { now } = edited<Lifecycle>(StatesEditor, "lifecycle", { is: ["dormant"] });
    await pick("Policy", "Riders");
    expect(now().policy).toEqual({ id: 7 });
    await pick("Version", "always version 2");
    expect(now().policy).toEqual({ id: 7, version: 2 });
    await pick("Policy", "the policy in force");
    expect(now()).toEqual({ is: ["dormant"] });
  });
});

describe("which messages", () => {
  it("asks what was made of them, of which campaign, and who got them", async () => {
    const { now } = edited<Campaign>(CampaignEditor, "campaign", { was: "opened", window: { ever: true } });
    await pick("What they did", "ignored it");
    expect(now()).toEqual({ was: "ignored", last: 5, window: { ever: true } });
    await write("How many", "8");
    await user.type(screen.getByLabelText("campaign"), " Spring {Tab}");
    await pick("channel", "SMS");
    await tick("dormant");
    const rest = { name: "Spring", channel: "sms", from: ["dormant"], window: { ever: true } };
    expect(now()).toEqual({ was: "ignored", last: 8, ...rest });
    await pick("What they did", "came back after it");
    await write("Days", "3");
    expect(now()).toEqual({ was: "returned", within_days: 3, ...rest });
    await pick("What they did", "have a mean run of response");
    expect(now()).toEqual({ run: { of: "mean", at_least: 3 }, ...rest });
    await tick("dormant");
    await write("campaign", "{Tab}");
    expect(now()).toEqual({ run: { of: "mean", at_least: 3 }, channel: "sms", window: { ever: true } });
  });

  it("takes shares as per cent, with one bound at least", async () => {
    const { now } = edited<Campaign>(CampaignEditor, "campaign", { was: "sent" });
    await pick("What they did", "responded to a share of them");
    expect(now().share).toEqual({ at_least: 0.5 });
    await write("less than", "80{Tab}");
    expect(now().share).toEqual({ at_least: 0.5, less_than: 0.8 });
    await write("at least", "{Tab}");
    expect(now().share).toEqual({ less_than: 0.8 });
    await write("less than", "{Tab}");
    expect(now().share).toEqual({ less_than: 0.8 });
  });
});

describe("which events", () => {
  it("are one type, several, or any; conditions that the new ones lack are dropped", async () => {
    const where = [
      { property: "distance_km", compare: "greater", value: 5 },
      { property: "channel", compare: "is", value: "app" },
    ];
    const { now, close } = edited<Selection>(EventsEditor, "selection", { event: "ride_ended", where });
    await user.click(screen.getByRole("button", { name: "or another event type …" }));
    await user.type(screen.getByRole("combobox"), "pas{Enter}");
    expect(now()).toEqual({ events: ["ride_ended", "pass_bought"], where });
    expect(close).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Leave out ride_ended" }));
    expect(now()).toEqual({ event: "pass_bought", where: [where[1]] });
    await user.type(screen.getByRole("combobox"), "anyth{Enter}");
    expect(now()).toEqual({ any_event: true, where: [where[1]] });
  });

  it("follow each other in one way or several", async () => {
    const { now } = edited<Step>(LinkEditor, "step", { event: "pass_bought" }, { remove: undefined });
    await tick(/within a time/);
    await pick("Unit", "hours");
    await write("How long", "48");
    await tick("in the same visit");
    expect(now()).toEqual({ event: "pass_bought", within: { hours: 48 }, same_visit: true });
    await tick(/within a time/);
    await tick("in the same visit");
    expect(now()).toEqual({ event: "pass_bought" });
    expect(screen.queryByRole("button", { name: "Remove this step" })).toBeNull();
  });

  it("come week by week, in no more weeks than are looked at", async () => {
    const { now } = edited<Rhythm>(RhythmEditor, "rhythm", { event: "ride_ended", each: "week", last: 4 });
    await write("Of how many", "8");
    expect(now()).toMatchObject({ last: 8, in: 8 });
    await write("In how many", "6");
    await write("Of how many", "5");
    expect(now()).toMatchObject({ last: 5, in: 5 });
    await pick("Weeks or months", "months");
    await write("Times", "2");
    expect(now()).toEqual({ event: "ride_ended", each: "month", last: 5, in: 5, times: 2 });
  });
});

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
    await tick("upper and lower case are the same");
    expect(now()).toEqual({ compare: "is", value: "yearly", ignore_case: true });
  });

  it("are several where that is asked for, one at least", async () => {
    serve({ "GET /catalogue/values": values });
    const { now } = of({ compare: "one_of", value: ["a"] }, "text");
    expect(screen.queryByRole("button", { name: "Leave out a" })).toBeNull();
    await waitFor(() =>
      expect(screen.getAllByRole("option").map((row) => row.textContent![0])).toEqual(["b", "c"]),
    );
    await user.click(screen.getAllByRole("option")[1]!);
    expect(now().value).toEqual(["a", "c"]);
    await user.click(screen.getByRole("button", { name: "Leave out a" }));
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
    const first = { name: "plan", compare: "is_set" };
    const { now } = edited<Attribute>(CompareEditor, "comparison", first, others);
    await user.type(screen.getByRole("combobox"), "is one{Enter}");
    await waitFor(() => expect(now()).toEqual({ name: "plan", compare: "one_of", value: ["a"] }));
    await tick("was ever so, not only now");
    expect(now()).toMatchObject({ compare: "one_of", ever: true });
  });
});
