import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { last, Refused, serve } from "../testing/server";
import { meaning, missing, type Inspection } from "./mapping";
import UploadForm from "./UploadForm.svelte";

const sales: Inspection = {
  ...{ kind: "events", own: false, remembered: false, shape: "a".repeat(40), encoding: "utf-8", sheets: [] },
  columns: [
    { name: "Kunde", values: ["K1", "K2"], filled: 1 },
    { name: "Ereignis", values: ["gekauft", "gekauft"], filled: 1 },
    { name: "Datum", values: ["03/04/2025", "05/06/2025"], filled: 1 },
    { name: "Notiz", values: [null, "x"], filled: 0.5 },
  ],
  mapping: { columns: { "identifier.customer": "Kunde", type: "Ereignis", time: "Datum" }, constants: {} },
  times: {
    ...{ ambiguous: true, zoned: false, example: "03/04/2025" },
    forms: [
      { format: "day_first", said: "3 Apr 2025, 00:00" },
      { format: "month_first", said: "4 Mar 2025, 00:00" },
    ],
  },
  check: { rows: 0, usable: 0, reasons: [] },
};

/** The form with a file chosen that is understood as given. */
async function chosen(found: Inspection | Refused) {
  serve({ "POST /imports/inspect": found });
  render(UploadForm, { done: vi.fn() });
  await userEvent.upload(screen.getByTestId("file"), new File(["Kunde;Ereignis\n"], "sales.csv"));
  await waitFor(() => expect(last("/imports/inspect")).toBeTruthy());
}
const button = () => screen.getByRole("button", { name: "Import" });

describe("a file before it is imported", () => {
  it("shows its rows under what they mean, and waits until times can be read in one way only", async () => {
    await chosen(sales);
    expect(await screen.findByLabelText("Meaning of Kunde")).toHaveProperty("value", "identifier.customer");
    expect(screen.getByLabelText("Meaning of Notiz")).toHaveProperty("value", "field");
    expect(screen.getByText("50% filled")).toBeTruthy();
    expect(screen.getByRole("alert").textContent).toContain("day first or month first");
    expect(button()).toHaveProperty("disabled", true);
    const read = {
      ...sales,
      mapping: { ...sales.mapping, time_format: "day_first" },
      times: { ...sales.times, ambiguous: false },
      check: {
        ...{ rows: 400, usable: 397 },
        reasons: [{ reason: "No identifier.", count: 3, example: ";gekauft" }],
      },
    };
    serve({ "POST /imports/inspect": read });
    await userEvent.selectOptions(
      screen.getByLabelText("Time format"),
      "3 Apr 2025, 00:00 (day first)",
    );
    expect((await screen.findByTestId("check")).textContent).toContain(
      "397 can be used and 3 would be rejected",
    );
    expect(screen.getByText(/No identifier/).textContent).toContain("3 rows");
    expect(button()).toHaveProperty("disabled", false);
  });

  it("suggests the time zone of the browser, and shows how text is encoded", async () => {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const elsewhere = zone === "Europe/Lisbon" ? "UTC" : "Europe/Lisbon";
    await chosen({
      ...sales,
      encoding: "windows-1252",
      mapping: { ...sales.mapping, time_zone: elsewhere },
    });
    await userEvent.click(await screen.findByRole("button", { name: new RegExp(zone) }));
    const mapping = () => JSON.parse((last("/imports/inspect").body as string).match(/\{.*\}/)![0]);
    await waitFor(() => expect(mapping()).toMatchObject({ time_zone: zone }));
    expect(screen.getByText("detected")).toBeTruthy();
    await userEvent.selectOptions(screen.getByLabelText("Text encoding"), "UTF-8");
    await waitFor(() => expect(mapping()).toEqual({ encoding: "utf-8" }));
  });

  it("says what is wrong with one that cannot be read", async () => {
    await chosen(new Refused(422, "the gzip file is damaged"));
    expect((await screen.findByRole("alert")).textContent).toContain("the gzip file is damaged");
    expect(button()).toHaveProperty("disabled", true);
  });
});

describe("a mapping", () => {
  it("gives each meaning to one column, and forgets how times were read with another column", () => {
    const given = { ...sales.mapping, time_format: "day_first" };
    expect(meaning(given, "Notiz", "time")).toMatchObject({
      columns: { "identifier.customer": "Kunde", type: "Ereignis", time: "Notiz" },
      time_format: null,
    });
    expect(meaning(given, "Notiz", "ignore")).toMatchObject({
      ignore: ["Notiz"],
      time_format: "day_first",
    });
    expect(meaning(given, "Notiz", "custom")).toMatchObject({
      columns: { "identifier.notiz": "Notiz" },
      custom_ids: ["notiz"],
    });
  });

  it("is not enough without somebody, a time and an event type", () => {
    const bare = {
      ...sales,
      mapping: { columns: {} },
      times: { ...sales.times, example: null, ambiguous: false },
    };
    expect(missing(bare)).toHaveLength(3);
    expect(missing({ ...bare, kind: "profiles" })).toHaveLength(1);
    expect(missing({ ...bare, own: true })).toEqual([]);
  });
});
