import { render, screen, waitFor } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { workspace } from "../lib/workspace.svelte";
import { info, sent, serve } from "../testing/server";
import Files from "./Files.svelte";

describe("leaving the demo", () => {
  it("goes on although the workspace is seen to be empty before the answer has come", async () => {
    const warned = vi.spyOn(console, "warn");
    workspace.info = { ...info, demo: true };
    let cleared: (answer: object) => void = () => {};
    const empty = { ...info, demo: false, ready: false };
    serve({
      "GET /imports": { imports: [] },
      "GET /audiences": { audiences: [] },
      "GET /exports": { exports: [] },
      "GET /workspace": empty,
      "POST /workspace/clear": () => new Promise((resolve) => (cleared = resolve)),
    });
    render(Files);
    const user = userEvent.setup();
    await user.click(await screen.findByRole("button", { name: "Remove demo data…" }));
    await user.type(await screen.findByLabelText(/Type “remove all data”/), "remove all data");
    await user.click(screen.getByRole("button", { name: "Remove everything" }));
    await waitFor(() => expect(sent("/workspace/clear")).toHaveLength(1));
    workspace.info = empty;
    await waitFor(() => expect(screen.queryByRole("button", { name: "Remove demo data…" })).toBeNull());
    cleared({ cleared: true });
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(await screen.findByText("No imports yet.")).toBeTruthy();
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(warned.mock.calls).toEqual([]);
  });
});
