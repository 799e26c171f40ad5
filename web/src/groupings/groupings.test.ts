import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import Breakdown from "../analyses/breakdown/Breakdown.svelte";
import Groups from "../data/Groups.svelte";
import { address } from "../lib/address.svelte";
import { toaster } from "../lib/toasts.svelte";
import { last, Refused, sent, serve } from "../testing/server";
import { groupings, type Grouping } from "./groupings.svelte";

const seasons: Grouping = {
  ...{ id: 3, name: "Seasons", author: "", updated_at: "2026-10-01T00:00:00.000000Z", deleted: false },
  groups: [
    { name: "spring", from: "2026-03-01", to: "2026-05-31", sentence: "People who were first seen then" },
    { name: "later", from: "2026-06-01", to: null, sentence: "People who were first seen later" },
  ],
};
const tenths: Grouping = {
  ...{ ...seasons, id: 4, name: "Tenths" },
  groups: [{ name: "tenth 10", from: null, to: null, sentence: "People whose chance is high" }],
};

beforeEach(() => {
  groupings.list = [];
  serve({ "GET /groupings": { groupings: [seasons, tenths] } });
});

describe("groups of one's own", () => {
  it("are written as seasons, once they have names and days that make sense", async () => {
    const user = userEvent.setup();
    serve({ "POST /groupings": seasons });
    render(Groups);
    await user.click(screen.getByRole("button", { name: "Add seasons" }));
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Save" });
    await user.type(screen.getByLabelText("Name"), "Seasons");
    await user.type(screen.getByLabelText("Name of season 1"), "spring");
    expect([keep.disabled, keep.title]).toEqual([true, "Each season needs a start or end date."]);
    await user.type(screen.getByLabelText("First day of season 1"), "2026-03-01");
    await user.type(screen.getByLabelText("Last day of season 1"), "2026-02-01");
    await user.tab();
    expect(keep.title).toBe("“spring” ends before it begins.");
    await user.clear(screen.getByLabelText("Last day of season 1"));
    await user.tab();
    await user.click(keep);
    const window = { from: "2026-03-01" };
    expect(last("/groupings").method).toBe("GET");
    expect(sent("/groupings")[0]!.body).toEqual({
      ...{ name: "Seasons", groups: [{ name: "spring", who: { seen: { window } } }] },
    });
    await waitFor(() => expect(screen.getByRole("region", { name: "Tenths" })).toBeTruthy());
    expect(screen.queryByRole("form")).toBeNull();
  });

  it("are changed where they are seasons, say why they cannot be kept, and are deleted with a way back", async () => {
    const user = userEvent.setup();
    const told = vi.spyOn(toaster, "create");
    groupings.list = [seasons, tenths];
    serve({
      "PUT /groupings/3": new Refused(409, "Someone else changed these groups."),
      "DELETE /groupings/4": { ...tenths, deleted: true },
    });
    render(Groups);
    const own = within(screen.getByRole("region", { name: "Tenths" }));
    expect(own.queryByRole("button", { name: "Edit" })).toBeNull();
    expect(own.getByText("People whose chance is high")).toBeTruthy();
    expect(screen.getByText("from 1 Jun 2026 on")).toBeTruthy();
    await user.click(own.getByRole("button", { name: "Delete" }));
    await waitFor(() =>
      expect(told).toHaveBeenCalledWith(expect.objectContaining({ title: "“Tenths” has been deleted" })),
    );
    await user.click(
      within(screen.getByRole("region", { name: "Seasons" })).getByRole("button", { name: "Edit" }),
    );
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect((await screen.findByRole("alert")).textContent).toBe("Someone else changed these groups.");
    expect(sent("/groupings/3")[0]!.body).toMatchObject({ updated_at: seasons.updated_at });
  });

  it("are offered wherever people are told apart, and said to be gone where they are", async () => {
    groupings.list = [seasons];
    address.go("/analyses/breakdown?by=grouping:3");
    const { unmount } = render(Breakdown);
    expect(screen.getByLabelText<HTMLSelectElement>("Split by").selectedOptions[0]!.text).toBe("Seasons");
    await waitFor(() => expect(last("/analyses/breakdown").body).toMatchObject({ by: { grouping: 3 } }));
    unmount();
    address.go("/analyses/breakdown?by=grouping:9");
    render(Breakdown);
    expect(screen.getByLabelText<HTMLSelectElement>("Split by").selectedOptions[0]!.text).toBe(
      "deleted groups",
    );
  });
});
