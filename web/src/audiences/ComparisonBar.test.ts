import { render, screen } from "@testing-library/svelte";
import { describe, expect, it, vi } from "vitest";
import { address } from "../lib/address.svelte";
import { toaster } from "../lib/toasts.svelte";
import { Refused, serve } from "../testing/server";
import { audience } from "../testing/examples";
import ComparisonBar from "./ComparisonBar.svelte";

describe("the comparison", () => {
  it("says how many of the address are too many, takes out what has been deleted and nothing that could not be read", async () => {
    serve({
      ...Object.fromEntries(
        [3, 4, 5, 6, 7].map((id) => [`GET /audiences/${id}`, audience(id, `Group ${id}`, { all: [] })]),
      ),
      "GET /audiences/1": new Refused(404, "There is nothing under this address."),
      "GET /audiences/2": new Refused(503, "Later."),
    });
    const told = vi.spyOn(toaster, "create");
    address.go(`/?compare=${Array.from({ length: 12 }, (_, at) => at + 1).join(",")}`);
    render(ComparisonBar);
    expect(screen.getByRole("status").textContent).toBe("Only the first 6 are compared; 6 not shown");
    expect(await screen.findByText("Group 6")).toBeTruthy();
    expect(address.get("compare")).toBe("2,3,4,5,6");
    expect(told).toHaveBeenCalledExactlyOnceWith(
      expect.objectContaining({ title: "A deleted audience was removed from the comparison" }),
    );
  });
});
