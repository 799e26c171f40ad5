import { render, screen } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import Explained from "./Explained.svelte";
import { GLOSSARY, termOf } from "./glossary";
import { guide, GUIDES } from "./guides";
import Help from "./Help.svelte";
import "../ui/popover"; // before: loading it takes long here

describe("help", () => {
  it("explains a figure on demand with the words of the glossary", async () => {
    render(Explained, { term: "gain_loss_ratio" });
    expect(screen.queryByText(GLOSSARY.gain_loss_ratio.text)).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "What is Gain/loss ratio?" }));
    expect(await screen.findByText(GLOSSARY.gain_loss_ratio.formula)).toBeTruthy();
    expect(screen.getByRole("link", { name: "Glossary" })).toHaveProperty("hash", "#gain_loss_ratio");
    expect([termOf("ratio"), termOf("people")]).toEqual(["gain_loss_ratio", null]);
  });

  it("lists every term once, and opens every guide with links that lead within the application", async () => {
    const { unmount } = render(Help, { part: "" });
    expect(screen.getAllByRole("term")).toHaveLength(Object.keys(GLOSSARY).length);
    unmount();
    for (const [name] of GUIDES) {
      const html = await guide(name);
      expect(html, name).toContain("<h1");
      expect(html, name).not.toMatch(/href="[^"]*\.md/);
    }
    render(Help, { part: "nothing" });
    expect(screen.getByText(/Guide not found/)).toBeTruthy();
  });
});
