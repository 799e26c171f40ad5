import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import type { Schemas } from "../lib/api/client";
import { last, Refused, sent, serve } from "../testing/server";
import { lastAsked } from "../lib/asked.svelte";
import { linkTo } from "./saved";
import SavedBar from "./SavedBar.svelte";
import SavedList from "./SavedList.svelte";

type Detail = Schemas["SavedAnalysisDetail"];

function saved(question: Detail["question"], more: Partial<Detail> = {}): Detail {
  const version = {
    version: 2,
    analysis: "trends",
    question,
    asks: { series: [{ event: "ride_ended" }] },
    author: "ana@estrel.example",
    written_at: "2026-10-31T09:00:00.000000Z",
  };
  return {
    ...{
      id: 7,
      name: "Weekly rides",
      folder: "Weekly",
      note: "",
      owner: "ana@estrel.example",
      mine: true,
      private: false,
    },
    ...{
      ...version,
      updated_at: "2026-10-31T09:00:00.000000Z",
      versions: [version, { ...version, version: 1, question: {} }],
    },
    ...more,
  };
}

async function shown(query: string, detail = saved({ event: "ride_ended", from: "-30" })) {
  address.go(`/analyses/trends${query}`);
  const routes = {
    "GET /saved-analyses/7": detail,
    "POST /saved-analyses": saved({ event: "ride_ended" }),
    "PUT /saved-analyses/7": saved({ event: "pass_bought" }, { version: 3 }),
    "DELETE /saved-analyses/7": detail,
    "GET /saved-analyses": { saved_analyses: [detail] },
  };
  serve(routes);
  render(SavedBar, { analysis: "trends" });
  return userEvent.setup();
}

/** What the page of trends asked last, and the same with dates that move along. */
const ASKED = { series: [{ event: "ride_ended" }], as_of: "2026-10-31", from: "2026-10-01", step: "week" };
const MOVING = { series: [{ event: "ride_ended" }], from: "-30", step: "week" };
beforeEach(() => (lastAsked.trends = JSON.stringify(ASKED)));

describe("a saved analysis", () => {
  it("keeps what the address asks, with dates as days before the as-of date, or as they are", async () => {
    const user = await shown("?event=ride_ended&from=2026-10-01&compare=1,2");
    await user.click(screen.getByRole("button", { name: "Save analysis" }));
    await user.type(screen.getByLabelText("Name"), "Weekly rides");
    await user.type(screen.getByLabelText("Folder"), "Weekly{Enter}");
    await waitFor(() => expect(address.get("saved")).toBe("7"));
    const question = { event: "ride_ended", from: "-30", compare: "1,2" };
    expect(last("/saved-analyses").body).toEqual({
      analysis: "trends",
      name: "Weekly rides",
      folder: "Weekly",
      note: "",
      private: false,
      question,
      asks: MOVING,
    });
    expect(linkTo("states", { range: "90", between: "-7" })).toBe("/?range=90&between=2026-10-24");
    expect(linkTo("trends", question)).toBe(
      "/analyses/trends?event=ride_ended&from=2026-10-01&compare=1%2C2",
    );
  });

  it("says what is open, keeps a change as a new version with the time it began from, and goes back", async () => {
    const user = await shown("?saved=7&event=pass_bought&from=2026-10-01");
    expect(await screen.findByText("Weekly rides")).toBeTruthy();
    const back = screen.getByRole("link", { name: "Discard changes" });
    expect(back.getAttribute("href")).toBe("/analyses/trends?event=ride_ended&from=2026-10-01&saved=7");
    await user.click(screen.getByRole("button", { name: "Version history" }));
    expect(screen.getByTestId("saved-versions").textContent).toMatch(/version 2.*version 1/s);
    await user.click(screen.getByRole("button", { name: "Save changes" }));
    await waitFor(() =>
      expect(sent("/saved-analyses/7").at(-1)?.body).toEqual({
        ...{ analysis: "trends", question: { event: "pass_bought", from: "-30" }, asks: MOVING },
        updated_at: "2026-10-31T09:00:00.000000Z",
      }),
    );
    expect(address.get("event")).toBe("pass_bought");
  });

  it("is unchanged where the address asks the same, and is renamed, refused and deleted", async () => {
    const user = await shown("?saved=7&event=ride_ended&from=2026-10-01");
    await screen.findByText("Weekly rides");
    expect(screen.queryByText("Unsaved changes")).toBeNull();
    serve({ "PUT /saved-analyses/7": new Refused(409, "Someone else changed this analysis.") });
    await user.click(screen.getByRole("button", { name: "Edit details…" }));
    await user.selectOptions(screen.getByLabelText("Dates"), "fixed");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("Someone else changed this analysis.")).toBeTruthy();
    expect(last("/saved-analyses/7").body).toMatchObject({
      question: { as_of: "2026-10-31", from: "2026-10-01" },
      asks: ASKED,
    });
    await user.click(screen.getByRole("button", { name: "Delete" }));
    await waitFor(() => expect(address.get("saved")).toBeNull());
  });

  it("is listed by folder, and opens with its dates moved along", async () => {
    serve({ "GET /saved-analyses": { saved_analyses: [saved({ event: "ride_ended", from: "-30" })] } });
    render(SavedList, { titles: { trends: "Trends" } });
    const link = await screen.findByRole("link", { name: "Weekly rides" });
    expect(link.getAttribute("href")).toBe("/analyses/trends?event=ride_ended&from=2026-10-01&saved=7");
    expect(screen.getByText("Weekly")).toBeTruthy();
  });
});
