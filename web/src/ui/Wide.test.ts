import { render, screen } from "@testing-library/svelte";
import { createRawSnippet, tick } from "svelte";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import Wide from "./Wide.svelte";

let measured: () => void;
let width = 0;

beforeEach(() => {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      constructor(told: () => void) {
        measured = told;
      }
      observe() {}
      disconnect() {}
    },
  );
  vi.spyOn(HTMLElement.prototype, "scrollWidth", "get").mockImplementation(() => width);
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(400);
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe("what may be wider than the window", () => {
  it("is a region that takes the focus while it scrolls, and none while it fits", async () => {
    const children = createRawSnippet(() => ({ render: () => "<p>many columns</p>" }));
    render(Wide, { label: "Figures", children });
    const looked = async (wide: number) => {
      width = wide;
      measured();
      await tick();
      return screen.queryByRole("region", { name: "Figures" });
    };
    expect(await looked(400)).toBeNull();
    expect((await looked(900))!.tabIndex).toBe(0);
    expect(await looked(300)).toBeNull();
    expect(screen.getByText("many columns")).toBeTruthy();
  });
});
