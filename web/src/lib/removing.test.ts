import { flushSync } from "svelte";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Refusal, unreachable } from "./api/client";
import { Removing } from "./removing.svelte";
import { toaster } from "./toasts.svelte";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

const row = (id: number) => ({ id, name: `Row ${id}` });
const undo = () => vi.mocked(toaster.create).mock.calls.at(-1)![0].action!.onClick();

describe("a row that is deleted", () => {
  it("keeps its place until the time to undo has passed, or comes back", async () => {
    vi.spyOn(toaster, "create");
    let rows = [row(1), row(2), row(3)];
    const removing = new Removing<ReturnType<typeof row>>(() => Promise.resolve());
    const placed = () => removing.placed(rows).map(({ row, gone }) => (gone ? -row.id : row.id));
    const remove = (id: number) =>
      removing.remove(
        row(id),
        rows,
        () => Promise.resolve((rows = rows.filter((one) => one.id !== id))),
        () => Promise.resolve((rows = [row(1), row(2), row(3)])),
      );
    await remove(2);
    expect(placed()).toEqual([1, -2, 3]);
    undo();
    await vi.runAllTimersAsync();
    expect(placed()).toEqual([1, 2, 3]);
    await remove(1);
    vi.advanceTimersByTime(11_000);
    expect(placed()).toEqual([-1, 2, 3]);
    vi.advanceTimersByTime(2_000);
    expect(placed()).toEqual([2, 3]);
  });

  it("stays where deleting is refused, and offers undoing again where that fails", async () => {
    const told = vi.spyOn(toaster, "create");
    const removing = new Removing<ReturnType<typeof row>>(() => Promise.resolve());
    const away = () => Promise.reject(new Refusal(unreachable));
    await removing.remove(row(1), [row(1)], away, away);
    expect(removing.problem).toEqual(unreachable);
    await removing.remove(row(1), [row(1)], () => Promise.resolve(), away);
    flushSync();
    expect(removing.problem).toBeNull();
    undo();
    await vi.advanceTimersByTimeAsync(1);
    expect(told.mock.calls.at(-1)![0]).toMatchObject({
      title: expect.stringMatching(/could not be undone\. The server is not responding/) as string,
      action: { label: "Undo" },
    });
  });
});
