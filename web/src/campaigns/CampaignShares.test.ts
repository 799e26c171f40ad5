import { render, screen } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import CampaignShares from "./CampaignShares.svelte";
import type { Schemas } from "../lib/api/client";
import type { Campaign } from "./campaigns";

type Messaging = Schemas["Messaging"];

const campaign = (name: string | null, changes: Partial<Campaign> = {}): Campaign => ({
  ...{ campaign: name, channel: name ? "email" : null, first_day: "2026-04-01", last_day: "2026-04-02" },
  ...{
    complete: true,
    exported: null,
    people: 380,
    responded: 130,
    messages: 450,
    settled: 400,
    bounced: 20,
  },
  ...{ opened: 120, clicked: 2, unsubscribed: 4, inactive: 300, back: 60, states: [] },
  ...changes,
});
const dates = { settled: "2026-10-28", over: "2026-10-18" };
const show = (campaigns: Campaign[]) =>
  render(CampaignShares, { found: { messaging: {} as Messaging, back_days: 14, campaigns, ...dates } });
const links = () => screen.getAllByRole("link", { name: /create audience/ }) as unknown as SVGAElement[];

describe("the shares of campaigns", () => {
  it("stand for people each: of messages opened and clicked, of dormant or churned people reactivated", () => {
    show([campaign("Spring")]);
    expect(links().map((link) => link.getAttribute("aria-label")!.replace(/^.*?: /, ""))).toEqual([
      "30% of messages opened; create audience",
      "0.5% of messages clicked; create audience",
      "20% of dormant or churned people were reactivated; create audience",
    ]);
    const conditions = links().map((link) => {
      const definition = new URL(link.getAttribute("href")!, location.href).searchParams.get("definition")!;
      return JSON.parse(definition).all[0].campaign;
    });
    expect(conditions[0]).toEqual({
      ...{ was: "opened", name: "Spring", channel: "email", window: { to: "2026-10-28" } },
    });
    expect(conditions[2]).toMatchObject({ was: "reactivated", window: { to: "2026-10-18" } });
    expect(screen.getByText("2 Apr 2026, 450 messages")).toBeTruthy();
  });

  it("leave out what nobody could do, and name the latest eight only", () => {
    show([campaign(null, { inactive: 0, back: 0 })]);
    expect(links()).toHaveLength(2);
    const many = Array.from({ length: 11 }, (_, index) => campaign(`Letter ${index}`));
    const { container } = show(many);
    expect(container.querySelectorAll("text.font-semibold")).toHaveLength(8);
    expect(screen.getByText("Latest 8 of 11 campaigns. The table lists all.")).toBeTruthy();
  });
});
