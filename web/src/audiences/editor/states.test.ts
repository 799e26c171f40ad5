import { screen } from "@testing-library/svelte";
import { describe, expect, it } from "vitest";
import { phrased, pick, tick, user, write } from "../../testing/editing";
import type { Campaign, Lifecycle } from "../definition";
import { workspace } from "../../lib/workspace.svelte";
import CampaignEditor from "../conditions/Campaign.svelte";
import StatesEditor from "../conditions/Lifecycle.svelte";

describe("which state", () => {
  it("keeps one state at least, in their order, and when", async () => {
    const { now } = phrased<Lifecycle>(StatesEditor, { is: ["dormant"] });
    expect(screen.getAllByLabelText("dormant")[0]).toHaveProperty("disabled", true);
    await tick("churned");
    await tick("new");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"] });
    await tick("and recently reactivated");
    await pick("When", "entered in the last … days");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"], entered_last_days: 7, reactivated: true });
    await tick("from never active");
    await write("Days", "30");
    expect(now()).toMatchObject({ entered_last_days: 30, from: ["never_active"] });
    await pick("When", "for at least … days");
    expect(now()).toEqual({ is: ["new", "dormant", "churned"], for_at_least_days: 30 });
    await pick("When", "on a date");
    expect(now()).toMatchObject({ on: "2026-10-31" });
  });

  it("may go by another rule set, in a version of it", async () => {
    workspace.ruleSets = [{ ...workspace.ruleSets[0]!, version: 2 }];
    const { now } = phrased<Lifecycle>(StatesEditor, { is: ["dormant"] });
    await pick("Rules", "Riders");
    expect(now().rule_set).toEqual({ id: 7 });
    await pick("Version", "always version 2");
    expect(now().rule_set).toEqual({ id: 7, version: 2 });
    await pick("Rules", "the default rule set");
    expect(now()).toEqual({ is: ["dormant"] });
  });
});

describe("which messages", () => {
  it("asks what was made of them, of which campaign, and who got them", async () => {
    const { now } = phrased<Campaign>(CampaignEditor, { was: "opened", window: { ever: true } });
    await pick("What they did", "ignored it");
    expect(now()).toEqual({ was: "ignored", last: 5, window: { ever: true } });
    await write("How many", "8");
    await user.type(screen.getByLabelText("campaign"), " Spring {Tab}");
    await pick("channel", "SMS");
    await tick("dormant");
    const rest = { name: "Spring", channel: "sms", from: ["dormant"], window: { ever: true } };
    expect(now()).toEqual({ was: "ignored", last: 8, ...rest });
    await pick("What they did", "were reactivated after it");
    await write("Days", "3");
    expect(now()).toEqual({ was: "reactivated", within_days: 3, ...rest });
    await pick("What they did", "have a mean response streak");
    expect(now()).toEqual({ streak: { of: "mean", at_least: 3 }, ...rest });
    await tick("dormant");
    await write("campaign", "{Tab}");
    expect(now()).toEqual({ streak: { of: "mean", at_least: 3 }, channel: "sms", window: { ever: true } });
  });

  it("takes shares as per cent, with one bound at least", async () => {
    const { now } = phrased<Campaign>(CampaignEditor, { was: "sent" });
    await pick("What they did", "have a response rate of");
    expect(now().share).toEqual({ at_least: 0.5 });
    await write("less than", "80{Tab}");
    expect(now().share).toEqual({ at_least: 0.5, less_than: 0.8 });
    await write("at least", "{Tab}");
    expect(now().share).toEqual({ less_than: 0.8 });
    await write("less than", "{Tab}");
    expect(now().share).toEqual({ less_than: 0.8 });
  });
});
