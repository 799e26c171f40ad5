import { render, screen, within } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { people, run } from "../testing/examples";
import { Refused, sent, serve } from "../testing/server";
import type { Schemas } from "../lib/api/client";
import RunsTable from "./RunsTable.svelte";

function push(changes: Partial<Schemas["Push"]>): Schemas["Push"] {
  const told = { taken: 0, refused: 0, waiting: 0, messages: 1, half_way: false };
  return { ...told, error: null, next_attempt_at: null, ...changes };
}

function shown(...runs: Schemas["Run"][]) {
  const changed = vi.fn(async () => {});
  render(RunsTable, { runs, changed });
  return {
    changed,
    user: userEvent.setup(),
    row: (at: number) => within(screen.getAllByRole("row")[at + 1]!),
  };
}

describe("runs", () => {
  it("tell in the workspace's time what became of each, and offer the file of those that are done", () => {
    const { row } = shown(
      run(5, { attempts: 2, started_by: "schedule" }),
      run(4, { people: { ...people, entered: 12, left: 5 } }),
      run(3, { state: "failed", error: "the disk is full", file_name: null, seconds: null, sha256: null }),
      run(2, { state: "cancelled", file_name: null, note: "was to run on 3 October" }),
    );
    expect(row(0).getByRole("link", { name: "800 people, 81.2 kB" })).toHaveProperty(
      "pathname",
      "/exports/runs/5",
    );
    expect(row(0).getByText("1.2 s, attempt 2")).toBeTruthy();
    expect(row(0).getByText("1 Nov 2026, 06:00, scheduled")).toBeTruthy();
    expect(row(0).getByRole("link", { name: "csv.gz" })).toHaveProperty("pathname", "/api/runs/5/file");
    expect(row(1).getByText("12 entered, 5 left")).toBeTruthy();
    expect(row(2).getByText("the disk is full")).toBeTruthy();
    expect(row(2).queryByRole("link")).toBeNull();
    expect(row(3).getByText("was to run on 3 October")).toBeTruthy();
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("wait for a word, which can be given or not, and say so where it comes too late", async () => {
    const waiting = { state: "waiting", waits_because: "Twice as many as last time." } as const;
    const { row, user, changed } = shown(
      run(9, waiting),
      run(8, { state: "running", cancel_requested: true }),
    );
    expect(row(0).getByText(/Twice as many/)).toBeTruthy();
    expect(row(1).getByText("cancelling…")).toBeTruthy();
    expect(row(1).queryByRole("button")).toBeNull();
    serve({ "POST /runs/9/approve": run(9), "POST /runs/9/cancel": new Refused(409, "it is over already") });
    await user.click(row(0).getByRole("button", { name: "Approve and export" }));
    expect(sent("/runs/9/approve")).toHaveLength(1);
    expect(changed).toHaveBeenCalledTimes(1);
    await user.click(row(0).getByRole("button", { name: "Cancel" }));
    expect((await screen.findByRole("alert")).textContent).toContain("it is over already");
    expect(changed).toHaveBeenCalledTimes(1);
  });

  it("go on with those a destination has not received, once, and send the refused again", async () => {
    const half = push({ taken: 300, waiting: 500, half_way: true, messages: 3 });
    const { row, user } = shown(
      run(7, { state: "failed", error: "it gave up", push: half }),
      run(6, { push: push({ taken: 780, refused: 20, messages: 2 }) }),
    );
    const progress = row(0).getByRole("progressbar", { name: "Accepted by the destination" });
    expect(progress.getAttribute("aria-valuenow")).toBe("37.5");
    expect(row(0).getByText(/300 of 800 accepted by the destination, 500 waiting; 3 messages/)).toBeTruthy();
    let goOn = () => {};
    serve({
      "POST /runs/7/resume": () => new Promise((resolve) => (goOn = () => resolve(run(7)))),
      "POST /runs/6/retry-refused": run(6),
    });
    const button = row(0).getByRole("button", { name: "Send the remaining 500" });
    await user.dblClick(button);
    expect(sent("/runs/7/resume")).toHaveLength(1);
    goOn();
    expect(row(1).getByText(/780 of 800 accepted by the destination, 20 rejected;/)).toBeTruthy();
    await user.click(row(1).getByRole("button", { name: "Retry 20 rejected people" }));
    expect(sent("/runs/6/retry-refused")).toHaveLength(1);
  });
});
