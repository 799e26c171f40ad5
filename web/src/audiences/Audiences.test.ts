import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { address } from "../lib/address.svelte";
import { session } from "../lib/session.svelte";
import { toaster } from "../lib/toasts.svelte";
import type { Schemas } from "../lib/api/client";
import { audience, audienceRow } from "../testing/examples";
import { Refused, sent, serve } from "../testing/server";
import Audiences from "./Audiences.svelte";

const row = (id: number, name: string, more: Partial<Schemas["AudienceRow"]> = {}) =>
  audienceRow(id, name, {
    ...{ sentence: `People in ${name}`, size: 10 * id, updated_at: `2026-10-0${id}T08:00:00Z` },
    ...more,
  });
const all = [
  row(1, "Zoe's", { uses: 3, folder: "Winter" }),
  row(2, "Far riders", { note: "for the spring letter", mine: false, owner: "ben@estrel.example" }),
  row(3, "Broken", { size: null, fault: "there is no attribute plan any more", private: true }),
];

beforeEach(() =>
  serve({ "GET /audiences": { audiences: all }, "GET /audiences/starting-points": { starting_points: [] } }),
);

async function shown() {
  render(Audiences);
  await screen.findByText("Broken");
  return userEvent.setup();
}
const names = () =>
  screen
    .getAllByRole("row")
    .slice(1)
    .map((line) => line.querySelector("a")!.textContent);

describe("the list of audiences", () => {
  it("is ordered, searched and narrowed, all of it in the address", async () => {
    const user = await shown();
    expect(names()).toEqual(["Broken", "Far riders", "Zoe's"]);
    await user.selectOptions(screen.getByLabelText("Order"), "Largest");
    expect(names()).toEqual(["Far riders", "Zoe's", "Broken"]);
    await user.selectOptions(screen.getByLabelText("Order"), "Most used");
    expect(names()[0]).toBe("Zoe's");
    await user.type(screen.getByLabelText("Find an audience"), "SPRING");
    expect(names()).toEqual(["Far riders"]);
    expect(location.search).toBe("?order=used&search=SPRING");
    await user.type(screen.getByLabelText("Find an audience"), "x");
    expect(screen.getByText("No audiences match.")).toBeTruthy();
    await user.clear(screen.getByLabelText("Find an audience"));
    await user.selectOptions(screen.getByLabelText("Owner"), "mine");
    expect(names()).toEqual(["Zoe's", "Broken"]);
    await user.selectOptions(screen.getByLabelText("Owner"), "shared");
    expect(names()).toEqual(["Zoe's", "Far riders"]);
    address.go("/audiences?folder=Winter");
    await waitFor(() => expect(names()).toEqual(["Zoe's"]));
  });

  it("says what is wrong with one, and whose each is", async () => {
    await shown();
    expect(screen.getByText("there is no attribute plan any more")).toBeTruthy();
    expect(screen.getByText(/ben@estrel\.example, shared/)).toBeTruthy();
    expect(screen.getByText(/yours, private/)).toBeTruthy();
    expect(screen.queryByRole("link", { name: "30" })).toBeNull();
    expect(screen.getByRole("link", { name: "20" })).toHaveProperty("search", "?audience=2");
  });

  it("deletes with a way back, or says who uses it", async () => {
    const user = await shown();
    const told = vi.spyOn(toaster, "create");
    serve({
      "DELETE /audiences/1": new Refused(409, "other things use it", [
        { place: "Weekly", message: "an export of it" },
      ]),
    });
    await user.click(screen.getByRole("button", { name: "Delete Zoe's" }));
    expect((await screen.findByRole("alert")).textContent).toContain("Weekly: an export of it");
    serve({
      "DELETE /audiences/2": audience(2, "Far riders", { all: [] }),
      "POST /audiences/2/restore": audience(2, "Far riders", { all: [] }),
      "GET /audiences": { audiences: [all[0], all[2]] },
    });
    await user.click(screen.getByRole("button", { name: "Delete Far riders" }));
    await waitFor(() => expect(names()).toEqual(["Broken", "Zoe's"]));
    expect(screen.queryByRole("alert")).toBeNull();
    const { title, action } = told.mock.calls.at(-1)![0];
    expect([title, action!.label]).toEqual(["“Far riders” has been deleted", "Undo"]);
    serve({ "GET /audiences": { audiences: all } });
    action!.onClick();
    await waitFor(() => expect(names()).toHaveLength(3));
    expect(sent("/audiences/2/restore")).toHaveLength(1);
  });

  it("opens a definition from a file as a draft, and nothing else", async () => {
    const user = await shown();
    const told = vi.spyOn(toaster, "create");
    const bring = (text: string, name: string) =>
      user.upload(
        screen.getByLabelText("Definition file"),
        new File([text], name, { type: "application/json" }),
      );
    await bring("people,who", "list.json");
    expect(told.mock.calls.at(-1)![0].title).toBe("“list.json” does not contain an audience definition");
    await bring('{"profile_type":{"is":["visitor"]}}', "Visitors.json");
    await waitFor(() => expect(address.path).toBe("/audiences/new"));
    expect(address.get("name")).toBe("Visitors");
    expect(JSON.parse(address.get("definition")!)).toEqual({ all: [{ profile_type: { is: ["visitor"] } }] });
  });

  it("offers viewers nothing they may not do, and beginners what an audience is", async () => {
    session.known = { ...session.known!, account: { ...session.account!, role: "viewer" } };
    const { unmount } = render(Audiences);
    await screen.findByText("Broken");
    expect(screen.queryByRole("button", { name: /Delete/ })).toBeNull();
    expect(screen.queryByRole("link", { name: "New audience" })).toBeNull();
    unmount();
    serve({ "GET /audiences": { audiences: [] } });
    render(Audiences);
    expect(await screen.findByText("No audiences yet.")).toBeTruthy();
  });
});
