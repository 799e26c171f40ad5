import { render, screen } from "@testing-library/svelte";
import { beforeEach, describe, expect, it } from "vitest";
import FieldsTable from "./FieldsTable.svelte";
import type { Schemas } from "../lib/api/client";
import { session } from "../lib/session.svelte";
import { workspace } from "../lib/workspace.svelte";
import { tick } from "../testing/editing";
import { info, serve, signedIn } from "../testing/server";
import Health from "./Health.svelte";

beforeEach(() => {
  workspace.info = info;
});

describe("health", () => {
  const quiet = { faults: [], set_aside: { count: 0, rows: [] } };

  it("says that everything works where it does", async () => {
    serve({ "GET /workspace/faults": quiet });
    render(Health);
    expect((await screen.findByTestId("health")).textContent).toBe(
      "No problems. All received events are included.",
    );
    expect(screen.queryByTestId("faults")).toBeNull();
  });

  it("tells what cannot be done since when, and which events no answer has", async () => {
    const fault = {
      ...{ process: "ledger", step: "refresh", message: "ENOSPC: No space left on device", count: 1200 },
      ...{ since: "2026-10-31T08:00:00.000000Z", last_at: "2026-10-31T09:30:00.000000Z" },
    };
    const row = { event_id: 7, event_type: "ride_ended", reason: "InvalidNumber" };
    serve({ "GET /workspace/faults": { faults: [fault], set_aside: { count: 3, rows: [row] } } });
    render(Health);
    expect((await screen.findByTestId("health")).textContent).toBe(
      "1 background task is failing and being retried and 3 events could not be read and are excluded from all figures.",
    );
    expect(screen.getByTestId("faults").textContent).toMatch(
      /No space left.*31 Oct 2026, 08:00.*09:30.*1,200/s,
    );
    expect(screen.getByTestId("set-aside").textContent).toContain("InvalidNumber");
    expect(screen.getByText("Showing the first 1 of 3.")).toBeTruthy();
  });
});

describe("fields", () => {
  const field: Schemas["SurveyedField"] = {
    ...{ display: null, quantity: null, unit: null, value_names: {}, suggested: "remark" },
    ...{ id: 3, name: "remark", description: "", type: "text" as const, mixed: false, share: 0.5, count: 4 },
    ...{ first_day: null, last_day: null, volume: [], example: null, top: [] },
    ...{ personal: true, personal_said: null, out_of_range: true },
  };
  const shown = (role: Schemas["Account"]["role"], mark: (personal: boolean) => Promise<void>) => {
    session.known = signedIn({ role });
    render(FieldsTable, {
      props: {
        fields: [field],
        what: "Property",
        keep: (_, { personal }) => mark(personal!),
      },
    });
    return screen.getByLabelText<HTMLInputElement>("remark is personal");
  };

  it("are marked as personal or not; until somebody decides it is suggested", async () => {
    const said: boolean[] = [];
    const box = shown("analyst", (personal) => Promise.resolve(void said.push(personal)));
    expect(box.checked).toBe(true);
    expect(screen.getByText("suggested")).toBeTruthy();
    expect(screen.getByText("⚑ large numbers as text")).toBeTruthy();
    await tick("remark is personal");
    expect(said).toEqual([false]);
  });

  it("stay as they are where the server refuses, and for viewers", async () => {
    const box = shown("analyst", () => Promise.reject(new Error("no")));
    await tick("remark is personal");
    expect((await screen.findByRole("alert")).textContent).toContain("no");
    expect(box.checked).toBe(true);
  });

  it("cannot be marked by viewers", () => {
    expect(shown("viewer", () => Promise.resolve()).disabled).toBe(true);
  });
});
