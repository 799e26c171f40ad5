import { render, screen, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf } from "../testing/answers";
import { last, Refused, sent, serve } from "../testing/server";
import Analyses from "./Analyses.svelte";

const did = (event: string) => ({ did: { event, where: [], count: { at_least: 1 } } }) as never;

describe("the analyses", () => {
  it("stand there by the question each answers", async () => {
    render(Analyses, { name: "" });
    const link = await screen.findByRole("link", { name: /Who is in an audience/ });
    expect(link.getAttribute("href")).toBe("/analyses/breakdown");
    expect(sent("/analyses/overlap")).toEqual([]);
  });

  it("start with questions about what people do most, and what they did before they paid", async () => {
    const row = {
      name: "ride ended",
      did: did("ride_ended"),
      people: 40,
      times: 90,
      share: 0.5,
      per_person: 2,
    };
    const ranking = {
      ...{ from: "2026-10-02", to: "2026-10-31", before: { from: "2026-09-02", to: "2026-10-01" } },
      ...{ counted_by: "people" as const, active: 80, ids: [], names: [], periods: [] },
      rows: [{ ...row, event: "ride_ended", before: 10, change: 0.1, trend: [1, 2, 3], audiences: [] }],
    };
    const next = {
      ...{
        from: "2026-08-03",
        to: "2026-10-31",
        direction: "before" as const,
        within: { days: 7 },
        depth: 1,
        among: null,
        who: null,
      },
      ...{ name: "paid", times: 100, people: 40, ended: 100, other: null, did: did("pass_bought") },
      ...{ ids: [], names: [], branches: [] },
    };
    serve({
      "POST /analyses/ranking": answerOf("ranking", ranking),
      "POST /analyses/next-events": answerOf("next-events", next),
      "POST /analyses/frequency": new Refused(503, "later"),
    });
    render(Analyses, { name: "" });
    const starting = within(await screen.findByTestId("starting"));
    const link = starting.getByRole("link", {
      name: "How many people had “ride ended” events, by week",
    });
    expect(link.getAttribute("href")).toBe("/analyses/trends?event=ride_ended&range=180");
    expect(await starting.findByText("40 people in the last 30 days")).toBeTruthy();
    expect(last("/analyses/next-events").body).toMatchObject({ direction: "before", within: { days: 7 } });
    expect(await starting.findByText("no event within 7 days")).toBeTruthy();
  });

  it("take along what their questions have in common, and the dates, but nothing of their own", async () => {
    address.go(
      "/analyses/astrology?as_of=2026-09-30&compare=4&by=state&event=ride_ended&from=2026-01-01&before=7&why=3",
    );
    render(Analyses, { name: "astrology" });
    expect(await screen.findByText(/There is no analysis called “astrology”/)).toBeTruthy();
    const links = within(screen.getByRole("navigation", { name: "Analyses" })).getAllByRole("link");
    expect(links.pop()?.getAttribute("href")).toBe("/analyses/pages?as_of=2026-09-30&compare=4");
    expect(links.map((link) => link.getAttribute("href"))).toEqual(
      [
        "trends",
        "ranking",
        "next-events",
        "frequency",
        "visits",
        "experience",
        "retention",
        "cohort-value",
        "funnel",
        "change",
        "chance",
        "overlap",
        "breakdown",
        "before-after",
      ].map(
        (name) => `/analyses/${name}?as_of=2026-09-30&compare=4&event=ride_ended&from=2026-01-01&by=state`,
      ),
    );
  });

  it("take along what events are told apart by only where that can be asked", () => {
    address.go("/analyses/astrology?event=ride_ended&by=event:minutes");
    render(Analyses, { name: "astrology" });
    const links = within(screen.getByRole("navigation", { name: "Analyses" }));
    expect(links.getByRole("link", { name: "Trends" }).getAttribute("href")).toContain("by=event");
    expect(links.getByRole("link", { name: "Frequency" }).getAttribute("href")).toBe(
      "/analyses/frequency?event=ride_ended",
    );
  });
});
