import { render, screen } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { session } from "../lib/session.svelte";
import { workspace } from "../lib/workspace.svelte";
import { longKept, sent, serve, signedIn } from "../testing/server";
import Settings from "./Settings.svelte";

beforeEach(() => {
  workspace.info = longKept;
  session.known = signedIn();
  serve({ "GET /workspace": longKept });
});

describe("how long events are kept", () => {
  it("is all of them, says what would be removed, and asks for the words before it is", async () => {
    const changed = [{ name: "kept_months", before: null, after: 12 }];
    serve({ "PUT /workspace": { changed, effects: [], workspace: { ...longKept, kept_months: 12 } } });
    render(Settings);
    const months = screen.getByLabelText(/Keep events for/);
    expect((months as HTMLInputElement).value).toBe("");
    await userEvent.type(months, "400");
    expect(screen.queryByRole("alert")).toBeNull();
    await userEvent.clear(months);
    await userEvent.type(months, "12");
    expect(screen.getByRole("alert").textContent).toContain("deletes all events before 1 Nov 2025");
    await userEvent.click(screen.getByRole("button", { name: "Save settings" }));
    expect(sent("/workspace")).toEqual([]);
    await userEvent.type(screen.getByLabelText(/Type “remove old events”/), "remove old events");
    await userEvent.click(screen.getByRole("button", { name: "Save settings" }));
    expect(sent("/workspace")[0]!.body).toMatchObject({ kept_months: 12, confirm: "remove old events" });
    expect((await screen.findByTestId("settings-outcome")).textContent).toMatch(
      /Event retention \(months\): changed\s+from\s+all to 12\./,
    );
  });
});
