import { render, screen, waitFor, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { address } from "../lib/address.svelte";
import { audience } from "../testing/examples";
import { asked, last, Refused, sent, serve } from "../testing/server";
import People from "./People.svelte";

const person = (id: number, more: object = {}) => ({
  ...{ id, profile_type: "customer", state: "dormant", reactivated: false, inactive_days: 45, in: [] },
  ...{ first_day: "2025-08-01", last_day: "2026-09-16" },
  identifiers: [
    { kind: "customer", value: `F0000${id}` },
    { kind: "email", value: `rider${id}@post.example` },
  ],
  ...more,
});
const found = (rows: object[], total = rows.length) => ({ as_of: "2026-10-31", total, per_page: 50, rows });

beforeEach(() =>
  serve({
    "GET /people": found([
      person(1),
      person(2, { identifiers: [], state: "never_active", inactive_days: null, last_day: null }),
    ]),
    "GET /catalogue/values": { values: [{ value: "yearly", count: 9 }] },
  }),
);

async function shown(path = "/people") {
  address.go(path);
  render(People);
  await screen.findByTestId("people-total");
  return userEvent.setup();
}
const query = () => last("/people").query;

describe("people", () => {
  it("are rows that lead to each, also who has no identifier and was never active", async () => {
    await shown("/people?as_of=2026-10-31");
    const [, one, other] = screen.getAllByRole("row").map((row) => within(row));
    expect(one!.getByRole("link", { name: "F00001" })).toHaveProperty("pathname", "/people/1");
    expect(one!.getByText("rider1@post.example")).toBeTruthy();
    expect(one!.getByText("16 Sep 2026")).toBeTruthy();
    expect(other!.getByRole("link", { name: "no identifier (2)" })).toBeTruthy();
    expect(other!.getAllByText("–")).toHaveLength(2);
    expect(screen.getByTestId("people-total").textContent!.replace(/\s+/g, " ").trim()).toBe(
      "2 people as of 31 Oct 2026",
    );
  });

  it("are those whom a global holdout holds, to be downloaded", async () => {
    await shown("/people?held_by=4");
    expect(query()).toMatchObject({ held_by: "4" });
    expect(screen.getByTestId("people-total").textContent).toMatch(/2\s+people\s+in/);
    const link = (name: string) => screen.getByRole("link", { name }).getAttribute("href");
    expect(link("a global holdout")).toMatch(/^\/exports\/standing\?.*standing=4/);
    expect(link("Download the list")).toContain("held_by=4");
    expect(screen.queryByRole("link", { name: /as an audience/ })).toBeNull();
  });

  it("are everybody again where the standing holdout does not exist", async () => {
    serve({ "GET /people": new Refused(422, "This global holdout does not exist.") });
    address.go("/people?held_by=4");
    render(People);
    await screen.findByText("This global holdout does not exist.");
    expect(screen.getByRole("link", { name: "Clear filters" }).getAttribute("href")).not.toContain(
      "held_by",
    );
  });

  it("are narrowed by state, profile type, search and order, beginning with the first page again", async () => {
    const user = await shown("/people?page=3&state=dormant");
    expect(query()).toEqual({ as_of: "2026-10-31", state: "dormant", page: "3" });
    await user.selectOptions(screen.getByLabelText("Profile type"), "visitors");
    await waitFor(() =>
      expect(query()).toEqual({ as_of: "2026-10-31", state: "dormant", profile_type: "visitor", page: "1" }),
    );
    await user.selectOptions(screen.getByLabelText(/^Sort by/), "Fewest days inactive");
    await user.type(screen.getByPlaceholderText(/Find by identifier/), " customer:F0001 ");
    await waitFor(() => expect(query()).toMatchObject({ search: "customer:F0001", order: "inactive_days" }));
    // What is typed quickly is asked once.
    expect(asked.filter(({ path, query }) => path === "/people" && query.search)).toHaveLength(1);
  });

  it("are found by what they are and did, which can be written on as an audience", async () => {
    const user = await shown();
    await user.selectOptions(screen.getByLabelText("Attribute"), "plan");
    await user.type(screen.getByLabelText("Value"), "yearly");
    await user.selectOptions(screen.getByLabelText("Event type"), "ride_ended");
    await user.type(screen.getByLabelText("Days"), "14");
    await user.click(screen.getByRole("button", { name: "Find" }));
    const definition = {
      all: [
        { attribute: { name: "plan", compare: "is", value: "yearly" } },
        { did: { event: "ride_ended", window: { last_days: 14 } } },
      ],
    };
    await waitFor(() => expect(JSON.parse(query().definition!)).toEqual(definition));
    const link = screen.getByRole<HTMLAnchorElement>("link", { name: "Create audience" });
    expect(JSON.parse(new URL(link.href).searchParams.get("definition")!)).toEqual(definition);
    await user.click(screen.getByRole("button", { name: "Clear" }));
    await waitFor(() => expect(query().definition).toBeUndefined());
    expect(screen.getByLabelText("Attribute")).toHaveProperty("value", "");
  });

  it("come in pages", async () => {
    serve({ "GET /people": found([person(1)], 120) });
    const user = await shown("/people?page=2");
    expect(screen.getByText("51–100 of 120 people")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Next page" }));
    await waitFor(() => expect(address.get("page")).toBe("3"));
    await user.click(screen.getByRole("button", { name: "Previous page" }));
    await waitFor(() => expect(address.get("page")).toBe("2"));
    await user.click(screen.getByRole("button", { name: "Previous page" }));
    await waitFor(() => expect(address.get("page")).toBeNull());
  });

  it("are nobody, or cannot be asked for", async () => {
    serve({ "GET /people": found([]) });
    const { unmount } = render(People);
    expect(await screen.findByText(/No people match/)).toBeTruthy();
    unmount();
    serve({ "GET /people": new Refused(422, "as_of lies before all data") });
    render(People);
    expect((await screen.findByRole("alert")).textContent).toContain("before all data");
    serve({ "GET /people": found([person(1)]) });
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(await screen.findByRole("link", { name: "F00001" })).toBeTruthy();
  });

  it("are picked one by one or page by page, and become a list for each kind of identifier", async () => {
    serve({
      "GET /people": found([
        person(1),
        person(2),
        person(3, { identifiers: [{ kind: "email", value: "c@post.example" }] }),
      ]),
    });
    const user = await shown();
    await user.click(screen.getByLabelText("Pick all on this page"));
    await user.click(screen.getByLabelText("Pick F00002"));
    const link = screen.getByRole("link", { name: "Create audience" });
    expect(JSON.parse(new URL((link as HTMLAnchorElement).href).searchParams.get("definition")!)).toEqual({
      all: [
        {
          any: [
            { listed: { by: "customer", values: ["F00001"] } },
            { listed: { by: "email", values: ["c@post.example"] } },
          ],
        },
      ],
    });
    await user.click(screen.getByRole("button", { name: "Clear selection" }));
    expect(screen.queryByRole("link", { name: "Create audience" })).toBeNull();
  });

  it("are kept as an audience when those picked are compared, exported by the same, and never without a list", async () => {
    serve({
      "GET /people": found([person(1), person(2, { identifiers: [] })]),
      "POST /audiences": ({ body }) => ({ ...audience(9, "", {} as never), ...(body as object) }),
    });
    const user = await shown("/people?as_of=2026-10-31");
    await user.click(screen.getByLabelText("Pick no identifier (2)"));
    expect(screen.queryByRole("button", { name: "Compare" })).toBeNull();
    await user.click(screen.getByLabelText("Pick F00001"));
    expect(screen.getByText("1 without an identifier cannot be included")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Compare" }));
    await waitFor(() => expect(address.get("compare")).toBe("9"));
    expect(sent("/audiences")[0]!.body).toEqual({
      name: "1 selected person",
      definition: { all: [{ listed: { by: "customer", values: ["F00001"] } }] },
    });
    await user.click(screen.getByLabelText("Pick F00001"));
    await user.click(screen.getByRole("button", { name: "Export" }));
    await waitFor(() => expect(address.path).toBe("/exports/new"));
    expect(address.get("audience")).toBe("9");
  });

  it("get further columns, which are sorted by and go along in the file", async () => {
    const user = await shown("/people?state=dormant");
    serve({ "GET /people": found([person(1, { values: ["yearly", 7] })]) });
    await user.selectOptions(screen.getByRole("combobox", { name: "Add a column" }), "plan");
    await user.click(screen.getByRole("button", { name: "Add a column, as chosen" }));
    await user.selectOptions(screen.getByRole("combobox", { name: "Add a column" }), "number of ride ended");
    await user.click(screen.getByRole("button", { name: "Add a column, as chosen" }));
    await waitFor(() =>
      expect(JSON.parse(query().columns!)).toEqual([
        { take: "attribute:plan" },
        { take: "count", event: "ride_ended" },
      ]),
    );
    expect(await screen.findByText("yearly")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "number of ride ended" }));
    await waitFor(() => expect(query().order).toBe("column:1"));
    const file = new URL((screen.getByRole("link", { name: "Download the list" }) as HTMLAnchorElement).href)
      .searchParams;
    expect([file.get("state"), JSON.parse(file.get("columns")!).length]).toEqual(["dormant", 2]);
    await user.click(screen.getByRole("button", { name: "Remove column plan" }));
    await waitFor(() => expect(query()).not.toHaveProperty("order"));
    serve({ "GET /people": found([person(1, { values: [7, 0.1234] })]) });
    await user.selectOptions(screen.getByRole("combobox", { name: "Add a column" }), "chance to come back");
    await user.click(screen.getByRole("button", { name: "Add a column, as chosen" }));
    expect(
      await screen.findByRole("columnheader", { name: "chance to come back within 30 days" }),
    ).toBeTruthy();
    expect(await screen.findByText("12%")).toBeTruthy();
    expect(JSON.parse(query().columns!)[1]).toEqual({ take: "chance", of: "come_back", days: 30 });
  });
});
