import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it } from "vitest";
import Notes from "../data/Notes.svelte";
import { last, sent, serve } from "../testing/server";
import { notes, upTo } from "./notes.svelte";

const NOTE = { id: 3, date: "2026-03-12", text: "Fares rise", owner: null, mine: true, private: false };
const HAPPENED = [{ date: "2026-03-20", kind: "export" as const, text: "Exported: Spring" }];

async function loaded() {
  serve({
    "GET /annotations": { annotations: [NOTE], happened: HAPPENED },
    "POST /annotations": NOTE,
    "PUT /annotations/3": NOTE,
    "DELETE /annotations/3": { deleted: true },
  });
  await notes.load();
}

describe("notes", () => {
  afterEach(() => {
    notes.hidden = [];
    notes.list = [];
    notes.happened = [];
  });

  it("stand at the stretch of days they lie in, as far as their kind is drawn", async () => {
    await loaded();
    const weeks = upTo(["2026-03-08", "2026-03-15", "2026-03-22"]);
    expect(weeks[1]).toEqual({ from: "2026-03-09", to: "2026-03-15" });
    expect(notes.at(weeks).map((found) => found.map(({ text }) => text))).toEqual([
      [],
      ["Fares rise"],
      ["Exported: Spring"],
    ]);
    notes.switched("export");
    expect(notes.at(weeks)[2]).toEqual([]);
    expect(localStorage.getItem("estrel-notes-hidden")).toBe("export");
    notes.switched("export");
  });

  it("are listed with what happened, written, changed and removed", async () => {
    await loaded();
    const user = userEvent.setup();
    render(Notes);
    expect(screen.getByTestId("notes-table").textContent).toMatch(
      /20 Mar 2026.*Exported: Spring.*12 Mar 2026.*Fares rise/s,
    );
    await user.click(screen.getByRole("button", { name: "Add note" }));
    await user.type(screen.getByLabelText("Note text"), "  Kiosks down ");
    await user.click(screen.getByLabelText("Private"));
    await user.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() =>
      expect(sent("/annotations").at(-1)?.body).toEqual({
        date: "2026-10-31",
        text: "Kiosks down",
        private: true,
      }),
    );
    await user.click(await screen.findByRole("button", { name: "Fares rise" }));
    await user.type(screen.getByLabelText("Note text"), " by a tenth{Enter}");
    await waitFor(() => expect(last("/annotations/3").body).toMatchObject({ text: "Fares rise by a tenth" }));
    await user.click(await screen.findByRole("button", { name: "Fares rise" }));
    await user.click(screen.getByRole("button", { name: "Remove" }));
    await waitFor(() => expect(last("/annotations/3").method).toBe("DELETE"));
  });
});
