import { render, screen, within } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { sent } from "../testing/server";
import Analyses from "./Analyses.svelte";

describe("the analyses", () => {
  it("stand there by the question each answers", () => {
    render(Analyses, { name: "" });
    expect(screen.getByRole("link", { name: /What is an audience made of/ }).getAttribute("href")).toBe(
      "/analyses/breakdown",
    );
    expect(sent("/analyses/overlap")).toEqual([]);
  });

  it("take along what their questions have in common, and the dates, but nothing of their own", () => {
    address.go(
      "/analyses/astrology?as_of=2026-09-30&compare=4&by=state&event=ride_ended&from=2026-01-01&before=7&why=3",
    );
    render(Analyses, { name: "astrology" });
    expect(screen.getByRole("status").textContent).toContain("There is no analysis called “astrology”");
    const links = within(screen.getByRole("navigation", { name: "Analyses" })).getAllByRole("link");
    expect(links.map((link) => link.getAttribute("href"))).toEqual(
      ["trends", "ranking", "next-events", "frequency", "overlap", "breakdown", "before-after"].map(
        (name) => `/analyses/${name}?as_of=2026-09-30&compare=4&event=ride_ended&from=2026-01-01&by=state`,
      ),
    );
  });
});
