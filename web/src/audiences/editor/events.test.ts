import { screen, waitFor } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { edited, phrased, pick, tick, user, write } from "../../testing/editing";
import { serve } from "../../testing/server";
import type { FilterTree, Did, Rhythm, Selection, Step, Window } from "../definition";
import CountEditor from "../conditions/Did.svelte";
import EventsEditor from "./EventsEditor.svelte";
import LinkEditor from "./LinkEditor.svelte";
import RhythmEditor from "../conditions/Rhythm.svelte";
import WindowEditor from "./WindowEditor.svelte";

describe("how often", () => {
  it("keeps the numbers and the unit from one way of counting to the next", async () => {
    const { now, close } = phrased<Did>(CountEditor, { event: "ride_ended", count: { at_least: 3 } });
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
    await pick("How often", "never");
    expect(now()).toEqual({ event: "ride_ended", count: { exactly: 0 } });
    expect(screen.queryByLabelText("Times")).toBeNull();
    await pick("How often", "exactly");
    await user.type(screen.getByLabelText("Times"), "{Enter}");
    expect(close).toHaveBeenCalled();
  });

  it("measures a property in the ways its type allows", async () => {
    serve({ "GET /catalogue/values": { values: [{ value: "app", count: 9 }] } });
    const { now } = phrased<Did>(CountEditor, { event: "ride_ended" });
    await pick("How often", "by a property …");
    expect(now().measure).toEqual({ of: "distance_km", take: "sum", compare: "at_least", value: 1 });
    await pick("Of which property", "channel");
    await waitFor(() =>
      expect(now().measure).toEqual({ of: "channel", take: "most_frequent", compare: "is", value: "app" }),
    );
    const takes = [...screen.getByLabelText("Aggregation").children].map((option) => option.textContent);
    expect(takes).toEqual(["number of different", "first", "last", "most frequent"]);
    await pick("Aggregation", "number of different");
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
    await write("to", "1 Sep 2026{Enter}");
    expect(now()).toEqual({ from: "2026-09-01", to: "2026-09-01" });
    await pick("When", "on or after a date");
    expect(now()).toEqual({ from: "2026-09-01" });
    await pick("When", "within … days of being first seen");
    expect(now()).toEqual({ first_days: 7 });
    await tick(/but not in the first/);
    await write("Days excluded", "9");
    expect(now()).toEqual({ first_days: 10, after_first_days: 9 });
    await write("Days", "3");
    expect(now()).toEqual({ first_days: 10, after_first_days: 9 });
    await tick(/but not in the first/);
    expect(now()).toEqual({ first_days: 10 });
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

describe("which events", () => {
  it("are one type, several, or any; conditions that the new ones lack are dropped", async () => {
    const where: FilterTree[] = [
      { property: "distance_km", compare: "greater", value: 5 },
      { property: "channel", compare: "is", value: "app" },
    ];
    const { now, close } = edited<Selection>(EventsEditor, "selection", { event: "ride_ended", where });
    await user.click(screen.getByRole("button", { name: "or another event type …" }));
    await user.type(screen.getByRole("combobox"), "pas{Enter}");
    expect(now()).toEqual({ events: ["ride_ended", "pass_bought"], where });
    expect(close).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Remove ride ended" }));
    expect(now()).toEqual({ event: "pass_bought", where: [where[1]] });
    await user.type(screen.getByRole("combobox"), "anyth{Enter}");
    expect(now()).toEqual({ any_event: true, where: [where[1]] });
  });

  it("follow each other in one way or several", async () => {
    const { now } = edited<Step>(LinkEditor, "step", { event: "pass_bought" }, { remove: undefined });
    await tick(/within a time limit/);
    await pick("Unit", "hours");
    await write("How long", "48");
    await tick("in the same visit");
    expect(now()).toEqual({ event: "pass_bought", within: { hours: 48 }, same_visit: true });
    await tick(/within a time limit/);
    await tick("in the same visit");
    expect(now()).toEqual({ event: "pass_bought" });
    expect(screen.queryByRole("button", { name: "Remove this step" })).toBeNull();
    await tick("on another day");
    await tick(/after a minimum delay/);
    expect(now()).toEqual({ event: "pass_bought", after: { days: 1 } });
    await tick("on another day");
    expect(now()).toEqual({ event: "pass_bought", other_day: true });
    await tick("on another day");
    await tick("as the very next event");
    await tick("among selected events only");
    expect(now()).toEqual({ event: "pass_bought", next: true, among: ["pass_bought"] });
    await user.click(screen.getByRole("button", { name: "or another event type …" }));
    await user.click(await screen.findByRole("option", { name: /ride ended/ }));
    expect(now().among).toEqual(["pass_bought", "ride_ended"]);
    await tick("as the very next event");
    expect(now()).toEqual({ event: "pass_bought" });
  });

  it("come week by week, in no more weeks than are looked at", async () => {
    const { now } = phrased<Rhythm>(RhythmEditor, { event: "ride_ended", each: "week", last: 4 });
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
