import type { Campaign, Node } from "../audiences/definition";
import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf, tableOf } from "../testing/answers";
import { last, Refused, sent, serve } from "../testing/server";
import Campaigns from "./Campaigns.svelte";

const state = {
  state: "dormant",
  messages: 300,
  settled: 300,
  opened: 90,
  clicked: 30,
  unsubscribed: 3,
  ...{ people: 290, responded: 95, inactive: 300, back: 60 },
};
const spring = {
  ...{
    campaign: "Spring",
    channel: "email",
    first_day: "2026-04-01",
    last_day: "2026-04-02",
    complete: true,
  },
  ...{
    exported: 420,
    people: 380,
    responded: 130,
    messages: 400,
    settled: 400,
    bounced: 20,
    opened: 120,
    clicked: 40,
    unsubscribed: 4,
  },
  ...{ inactive: 300, back: 60, states: [state] },
};
const nameless = {
  ...spring,
  campaign: null,
  channel: null,
  exported: null,
  inactive: 0,
  back: 0,
  complete: false,
};
const messaging = {
  ...{ received: "message_received", bounced: "message_bounced", opened: "message_opened" },
  ...{ clicked: "message_clicked", unsubscribed: "unsubscribed", campaign: "campaign", channel: "channel" },
};
const dates = { settled: "2026-10-28", over: "2026-10-18" };
const results = { back_days: 14, campaigns: [spring, nameless], messaging, ...dates };
const response = {
  points: [
    { campaign: "Spring", channel: "email", messages: 400, people: 380, mean: 0.4, longest: 3 },
    { campaign: null, channel: null, messages: 50, people: 50, mean: 0.1, longest: 1 },
  ],
  bands: [
    { at_least: 0.8, less_than: null, people: 30 },
    { at_least: 0, less_than: 0.2, people: 0 },
  ],
  campaigns: ["Spring"],
  cells: [[[40, 36]], [[0, 0]]],
  current_streaks: [
    { length: 0, people: 300 },
    { length: 2, people: 12 },
  ],
};

const of = (
  was: Campaign["was"],
  row: { campaign: string | null; channel: string | null },
  more: Campaign = {},
): Node => ({
  campaign: {
    was,
    ...(row.campaign ? { name: row.campaign } : {}),
    ...(row.channel ? { channel: row.channel } : {}),
    ...more,
    window: { ever: true },
  },
});
const cells = (row: typeof spring | typeof nameless, more: Campaign = {}) => ({
  messages: of("sent", row, more),
  ignored: of("ignored", row, more),
  back: of("reactivated", row, more),
});
const came = ["messages:count", "ignored:count:messages", "back:count:inactive", "inactive:count"];
const tables = [
  tableOf(
    "campaigns",
    ["campaign:text", "channel:text", ...came, "complete:flag"],
    { values: ["Spring", "email", 400, 270, 60, 300, true], cells: cells(spring) },
    { values: ["no campaign", null, 400, 270, 0, 0, false], cells: cells(nameless) },
  ),
  tableOf(
    "states",
    ["campaign:text", "channel:text", "state:state", ...came],
    {
      values: ["Spring", "email", "dormant", 300, 205, 60, 300],
      cells: cells(spring, { from: ["dormant"] }),
    },
    { values: ["no campaign", null, "churned", 12, 9, 1, 12], cells: cells(nameless, { from: ["churned"] }) },
  ),
];
const days = {
  days: [0, 1].map((day) => ({
    ...{ day, messages: 400, opened: 60, clicked: 20, unsubscribed: 1, inactive: 300 },
    back: 30 * day,
  })),
};
const current = tableOf("current", ["length:count", "people:people"], {
  values: [2, 12],
  people: { campaign: { streak: { of: "current", at_least: 2, less_than: 3 }, window: { ever: true } } },
});

beforeEach(() =>
  serve({
    "POST /analyses/campaign-results": answerOf("campaign-results", results, {
      finding: "One campaign.",
      tables,
    }),
    "POST /analyses/response-streaks": answerOf("response-streaks", response, { tables: [current] }),
    "POST /analyses/campaign-days": answerOf("campaign-days", days, { finding: "After 1 day." }),
  }),
);

async function shown() {
  render(Campaigns);
  await screen.findByTestId("response-map");
  return userEvent.setup();
}

/** What a link to people or an audience asks for. */
function meant(link: HTMLElement): unknown {
  return JSON.parse(new URL((link as HTMLAnchorElement).href).searchParams.get("definition")!).all;
}
const link = (name: string | RegExp) => screen.getByRole("link", { name });

describe("campaigns", () => {
  it("tell what came of each, every number as people", async () => {
    await shown();
    const rows = within(screen.getByRole("table", { name: "campaigns" })).getAllByRole("row");
    expect(rows[1]!.textContent).toMatch(/Spring\s*email\s*400\s*270\s*68%\s*60\s*20%/);
    expect(meant(within(rows[1]!).getByRole("link", { name: "60" }))).toEqual([of("reactivated", spring)]);
    expect(rows[2]!.textContent).toContain("incomplete");
    expect(meant(within(rows[2]!).getByRole("link", { name: "400" }))).toEqual([of("sent", nameless)]);
    expect(link("no campaign").getAttribute("href")).toBe("/?campaign=%2F");
  });

  it("open day by day and by state, and stand in the address", async () => {
    const user = await shown();
    address.go(link("Spring").getAttribute("href")!);
    await waitFor(() =>
      expect(last("/analyses/campaign-days").body).toMatchObject({ campaign: "Spring", channel: "email" }),
    );
    const states = within(await screen.findByRole("table", { name: "states" }));
    expect(states.getAllByRole("row")).toHaveLength(2);
    expect(states.queryByText("Spring")).toBeNull();
    expect(meant(states.getByRole("link", { name: "205" }))).toEqual([
      of("ignored", spring, { from: ["dormant"] }),
    ]);
    expect((await screen.findByTestId("finding")).textContent).toContain("After 1 day.");
    await user.selectOptions(screen.getByLabelText("Campaign"), "no campaign");
    expect(await screen.findByRole("row", { name: /churned/ })).toBeTruthy();
    address.go("/exports/campaigns");
    await waitFor(() => expect(screen.queryByTestId("campaign")).toBeNull());
  });

  it("tell how people respond from message to message, every cell as an audience", async () => {
    const user = await shown();
    expect(meant(link("12"))).toEqual([
      { campaign: { streak: { of: "current", at_least: 2, less_than: 3 }, window: { ever: true } } },
    ]);
    expect(link("90%").title).toBe("40 messages of Spring, 36 responded to");
    await user.selectOptions(screen.getByLabelText("Messages by"), "email");
    await waitFor(() => expect(last("/analyses/response-streaks").body).toMatchObject({ channel: "email" }));
    await waitFor(() =>
      expect(meant(link("90%"))).toEqual([
        { campaign: { share: { at_least: 0.8 }, channel: "email", window: { ever: true } } },
        { campaign: { was: "sent", name: "Spring", channel: "email", window: { ever: true } } },
      ]),
    );
  });

  it("are read anew by other event types, where those are known", async () => {
    const user = await shown();
    await user.click(screen.getByText("Message event types"));
    const field = screen.getByLabelText("Opened");
    serve({ "PUT /campaigns/messaging": new Refused(422, "there is no event type read") });
    await user.clear(field);
    await user.type(field, "read");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toContain("no event type read");
    expect(field).toHaveProperty("value", "read");
    expect(sent("/campaigns/messaging")[0]!.body).toEqual({ ...messaging, opened: "read" });
  });

  it("say where there are none", async () => {
    const none = answerOf(
      "campaign-results",
      { ...results, campaigns: [] },
      { finding: "No message is known of." },
    );
    serve({ "POST /analyses/campaign-results": none });
    render(Campaigns);
    expect((await screen.findByTestId("finding")).textContent).toBe("No message is known of.");
    expect(link("Live events")).toHaveProperty("pathname", "/data/live");
  });
});
