import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { answerOf } from "../testing/answers";
import { last, Refused, sent, serve } from "../testing/server";
import Campaigns from "./Campaigns.svelte";

const state = {
  state: "dormant",
  messages: 300,
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
const results = { back_days: 14, campaigns: [spring, nameless], messaging };
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

beforeEach(() =>
  serve({
    "POST /analyses/campaign-results": answerOf("campaign-results", results, { finding: "One campaign." }),
    "POST /analyses/response-streaks": answerOf("response-streaks", response),
    "POST /analyses/campaign-days": answerOf("campaign-days", {
      days: [0, 1].map((day) => ({
        ...{ day, messages: 400, opened: 60, clicked: 20, unsubscribed: 1, inactive: 300 },
        back: 30 * day,
      })),
    }),
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
    const row = within(screen.getByTestId("campaigns")).getAllByRole("row")[1]!;
    expect(
      within(row)
        .getAllByRole("cell")
        .map((cell) => cell.textContent!.replace(/\s+/g, " ").trim()),
    ).toEqual([
      ...["Spring", "e-mail", "1 Apr 2026 to 2 Apr 2026", "420", "400", "20", "120 30%", "40 10%"],
      ...["4 1.0%", "60 of 300"],
    ]);
    expect(meant(within(row).getByRole("link", { name: "60" }))).toEqual([
      { campaign: { was: "returned", name: "Spring", channel: "email", window: { ever: true } } },
    ]);
    const other = within(screen.getByTestId("campaigns")).getAllByRole("row")[2]!;
    expect(within(other).getAllByText("–")).toHaveLength(3);
    expect(meant(within(other).getByRole("link", { name: "400" }))).toEqual([
      { campaign: { was: "sent", window: { ever: true } } },
    ]);
  });

  it("open day by day and by state, and stand in the address", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "Spring" }));
    expect(address.get("campaign")).toBe("Spring");
    await waitFor(() =>
      expect(last("/analyses/campaign-days").body).toMatchObject({ campaign: "Spring", channel: "email" }),
    );
    const states = within(await screen.findByTestId("by-state"));
    expect(meant(states.getByRole("link", { name: "dormant people who ignored it as an audience" }))).toEqual(
      [
        {
          campaign: {
            from: ["dormant"],
            name: "Spring",
            channel: "email",
            was: "ignored",
            window: { ever: true },
          },
        },
      ],
    );
    await user.click(screen.getByRole("button", { name: "Spring" }));
    expect(address.get("campaign")).toBeNull();
    expect(screen.queryByTestId("by-state")).toBeNull();
  });

  it("tell how people respond from message to message, every cell as an audience", async () => {
    const user = await shown();
    expect(meant(link("12"))).toEqual([
      { campaign: { run: { of: "current", at_least: 2, less_than: 3 }, window: { ever: true } } },
    ]);
    expect(link("90%").title).toBe("40 messages of Spring, 36 responded to");
    await user.selectOptions(screen.getByLabelText("Messages by"), "e-mail");
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
    await user.click(screen.getByText("Which events tell of messages"));
    const field = screen.getByLabelText("was opened");
    serve({ "PUT /campaigns/messaging": new Refused(422, "there is no event type read") });
    await user.clear(field);
    await user.type(field, "read");
    await user.click(screen.getByRole("button", { name: "Keep" }));
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
    expect(link("Look at what has come in")).toHaveProperty("pathname", "/data");
  });
});
