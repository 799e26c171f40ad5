import { describe, expect, it } from "vitest";
import cases from "../../../core/spec/formats.json";
import { quantitySaid } from "./names";
import { bandCondition, bandSaid, messagesOf, named } from "../campaigns/campaigns";
import {
  bytes,
  day,
  duration,
  growth,
  rate,
  ratio,
  fine,
  list,
  moment,
  number,
  percent,
  plural,
  points,
  shortened,
  shown,
  signed,
  times,
} from "./format";

describe("the forms the core writes, too", () => {
  it("are the same here", () => {
    const forms = {
      number,
      percent,
      duration,
      date: day,
      days: (count: number) => plural(count, "day"),
      list,
      points,
      ratio,
      rate,
      growth,
      signed,
      quantity: ([value, quantity, unit]: [number, string, string]) => quantitySaid(value, quantity, unit),
    } as Record<string, (value: never) => string>;
    for (const [name, rows] of Object.entries(cases)) {
      expect(rows.map(([value]) => [value, forms[name]!(value as never)])).toEqual(rows);
    }
  });
});

describe("long values", () => {
  it("are cut to 60 characters, and not within one", () => {
    expect(shortened("x".repeat(60))).toBe("x".repeat(60));
    expect(shortened("😀".repeat(61))).toBe(`${"😀".repeat(59)}…`);
  });
});

describe("numbers", () => {
  it("say differences with their sign", () => {
    expect([0, 0.026, 0.4].map(fine)).toEqual(["0%", "2.6%", "40%"]);
    expect([0, 1234, -5].map(signed)).toEqual(["±0", "+1,234", "−5"]);
    expect([0.0004, 0.031, -0.031].map(points)).toEqual(["0.0", "+3.1", "−3.1"]);
    expect([0, 1.5, 0.1234, 0.0999, 0.00054, -0.0123].map(rate)).toEqual([
      ...["0", "1.500", "0.123", "0.100", "0.00054", "−0.012"],
    ]);
    expect([null, 2.34, 12.3].map(times)).toEqual(["–", "2.3 ×", "12 ×"]);
  });

  it("have units that fit", () => {
    expect([999, 81_234, 5_400_000].map(bytes)).toEqual(["999 B", "81.2 kB", "5.4 MB"]);
    expect([45, 59.6, 120, 3599, 7800, 172_799, 259_200].map(duration)).toEqual([
      "45 s",
      "1 min",
      "2 min",
      "1 h",
      "2 h 10 min",
      "48 h",
      "3 days",
    ]);
    expect([plural(1, "person", "people"), plural(2000, "day")]).toEqual(["1 person", "2,000 days"]);
    expect([list([]), list(["a"]), list(["a", "b", "c"])]).toEqual(["", "a", "a, b and c"]);
    expect([null, ["a", 1], { b: 2 }, false].map(shown)).toEqual(["not set", "a, 1", '{"b":2}', "false"]);
  });

  it("say instants in the zone of the workspace, daylight saving included", () => {
    expect(moment("2026-10-25T00:30:00Z", "Europe/Lisbon")).toBe("25 Oct 2026, 01:30");
    expect(moment("2026-10-25T01:30:00Z", "Europe/Lisbon")).toBe("25 Oct 2026, 01:30");
  });
});

describe("campaigns", () => {
  it("become conditions as far as they have a name and a channel", () => {
    expect(named({ campaign: null, channel: null })).toBe("no campaign");
    expect(named({ campaign: "Ride on", channel: "sms" })).toBe("Ride on (SMS)");
    expect(messagesOf({ campaign: null, channel: "sms" })).toEqual({ without_name: true, channel: "sms" });
    const [top, mid] = [
      { at_least: 0.8, less_than: null, people: 3 },
      { at_least: 0.2, less_than: 0.4, people: 5 },
    ];
    expect([bandSaid(top), bandSaid(mid), bandSaid({ ...mid, at_least: 0 })]).toEqual([
      "80% or more",
      "20 to 40%",
      "under 40%",
    ]);
    expect(bandCondition(top, null)).toEqual({
      campaign: { share: { at_least: 0.8 }, window: { ever: true } },
    });
    expect(bandCondition(mid, "sms")).toEqual({
      campaign: { share: { at_least: 0.2, less_than: 0.4 }, channel: "sms", window: { ever: true } },
    });
  });
});
