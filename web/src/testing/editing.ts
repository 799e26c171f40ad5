import { render, screen } from "@testing-library/svelte";
import userEvent from "@testing-library/user-event";
import type { Component } from "svelte";
import { vi } from "vitest";

Element.prototype.scrollIntoView = () => {}; // there is nothing to scroll
export const user = userEvent.setup();

/** An editor whose piece is what was made of it last; tells what that is. */
export function edited<T>(editor: unknown, prop: string, first: T, others: object = {}, told = "change") {
  let piece = first;
  const close = vi.fn();
  const change = async (next: T) => {
    piece = next;
    await rerender({ [prop]: next });
  };
  const { rerender } = render(editor as Component<Record<string, unknown>>, {
    [prop]: first,
    [told]: change,
    close,
    ...others,
  });
  return { now: () => piece, close };
}
/** The same for the editor of a condition's phrases. */
export function phrased<T>(editor: unknown, first: T, others: object = {}) {
  return edited(editor, "piece", first, others, "put");
}
export const pick = (label: string, text: string) => user.selectOptions(screen.getByLabelText(label), text);
export const tick = (label: string | RegExp) => user.click(screen.getAllByLabelText(label)[0]!);
export async function write(label: string, text: string) {
  await user.clear(screen.getByLabelText(label));
  await user.type(screen.getByLabelText(label), text);
}
