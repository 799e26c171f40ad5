import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../../lib/address.svelte";
import { answerOf } from "../../testing/answers";
import { meant } from "../../testing/links";
import { audienceRow } from "../../testing/examples";
import { last, Refused, sent, serve } from "../../testing/server";
import BeforeAfter from "./BeforeAfter.svelte";

const PATH = "/analyses/before-after";
const series = [-1, 0, 1].map((day) => ({ day, mean: day < 0 ? 0.5 : 0.75, low: 0.4, high: 0.8 }));
const picture = {
  ...{ people: 120, known_too_late: 7, not_over: 2, metric: "how often", start: "", before: 28, after: 28 },
  ...{ series, mean_before: 0.5, mean_after: 0.75 },
  difference: { estimate: 0.25, low: -0.1, high: 0.6, p_value: 0.1 },
  matched: {
    ...{
      pairs: 100,
      people: 90,
      placebo: { pairs: 80, difference: null },
      balance: [],
      series,
      mean_before: 0.4,
      mean_after: 0.45,
      own_before: 0.41,
      own_after: 0.71,
    },
    difference: { estimate: 0.25, low: 0.05, high: 0.45, p_value: 0.01 },
  },
};
const found = answerOf("before-after", picture, { finding: "More.", caveats: ["It need not be the cause."] });

beforeEach(() => {
  address.go("/analyses/before-after");
  serve({
    [`POST ${PATH}`]: found,
    "GET /audiences": { audiences: [audienceRow(4, "Dormant commuters")] },
  });
});

async function shown() {
  render(BeforeAfter);
  await screen.findByTestId("finding");
  return userEvent.setup();
}

describe("before and after", () => {
  it("begins with what is likely asked, of days that are over", async () => {
    await shown();
    expect(last(PATH).body).toEqual({
      ...{ as_of: "2026-10-31", first: { event: "pass_bought" }, from: "2026-04-06", to: "2026-10-03" },
      ...{ metric: { event: "ride_ended" }, before: 28, after: 28 },
    });
    expect(screen.getByText(/Excluded: 7 known for less/)).toBeTruthy();
    expect(screen.getByText(/It need not be the cause/)).toBeTruthy();
    expect(meant(screen.getByRole("link", { name: /Create audience/ }))).toEqual([
      { first: { event: "pass_bought", window: { from: "2026-04-06", to: "2026-10-03" } } },
    ]);
  });

  it("goes by a date for an audience, and sums a number; all of it in the address", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Day 0"), "a date:");
    await user.selectOptions(screen.getByLabelText("Among"), "people in “Dormant commuters”");
    await user.selectOptions(screen.getByLabelText("Counted or summed"), "the total minutes of");
    await user.clear(screen.getByLabelText("Days after"));
    await user.type(screen.getByLabelText("Days after"), "14{Tab}");
    await waitFor(() =>
      expect(last(PATH).body).toEqual({
        ...{ as_of: "2026-10-31", date: "2026-10-17", audience: 4, before: 28, after: 14 },
        metric: { event: "ride_ended", measure: "sum", property: "minutes" },
      }),
    );
    expect(address.get("around")).toBe("date");
  });

  it("takes events as audiences do, and keeps them in the address", async () => {
    const user = await shown();
    await user.click(screen.getByRole("button", { name: "First event: pass bought" }));
    const choices = within(await screen.findByRole("dialog"));
    await user.click(await choices.findByRole("option", { name: /message opened/ }));
    await waitFor(() => expect(last(PATH).body).toMatchObject({ first: { event: "message_opened" } }));
    address.go(address.with({ event: JSON.stringify({ events: ["pass_bought", "ride_ended"], where: [] }) }));
    await waitFor(() =>
      expect(last(PATH).body).toMatchObject({ metric: { events: ["pass_bought", "ride_ended"] } }),
    );
    expect(screen.getByRole("button", { name: "What is measured: pass bought or ride ended" })).toBeTruthy();
  });

  it("leaves out of the address what makes no sense, and says what the server refuses", async () => {
    address.go("/analyses/before-after?before=0&from=yesterday&first={");
    await shown();
    expect(last(PATH).body).toMatchObject({ before: 28, first: { event: "pass_bought" } });
    expect(screen.getByText(/ignored: first and before/)).toBeTruthy();
    serve({ [`POST ${PATH}`]: new Refused(422, "metric.event: no event type") });
    address.go("/analyses/before-after?event=rode");
    expect((await screen.findByRole("alert")).textContent).toContain("no event type");
    serve({
      [`POST ${PATH}`]: answerOf("before-after", { ...picture, people: 0 }, { finding: "Nobody did." }),
    });
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect((await screen.findByTestId("finding")).textContent).toBe("Nobody did.");
    expect(screen.queryByRole("link", { name: /Create audience/ })).toBeNull();
    expect(sent(PATH)).toHaveLength(3);
  });
});
