import { tick } from "svelte";

const FOCUSABLE =
  "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex='-1'])";

/** Where the focus goes when what had it is gone. Each case stands here. */
const places = {
  /** After going to another place: its beginning. */
  place: () => document.getElementById("main"),
  /** After a panel has opened: the first thing to use in it. */
  panel: (inside: HTMLElement) => inside.querySelector<HTMLElement>(FOCUSABLE),
  /** After a row was deleted: the next row, or else the one before. */
  deleted: () => {
    const row = [...document.querySelectorAll("[data-deleted]")].at(-1);
    const near = [row?.nextElementSibling, row?.previousElementSibling].find(
      (one) => one && !one.hasAttribute("inert"),
    );
    return near?.querySelector<HTMLElement>(FOCUSABLE) ?? places.place();
  },
};

/** Whether nothing has the focus, as after the element that had it was removed or made inert. */
function lost(): boolean {
  const { activeElement } = document;
  return (
    activeElement === null || activeElement === document.body || activeElement.closest("[inert]") !== null
  );
}

/** Moves the focus to the beginning of a place, unless the place itself has taken it. */
export async function focusPlace(): Promise<void> {
  await tick();
  const main = places.place();
  if (main && !main.contains(document.activeElement)) main.focus({ preventScroll: true });
}

/** Moves the focus to the row next to one that was deleted, where that has lost the focus. */
export async function focusNearDeleted(): Promise<void> {
  await tick();
  if (lost()) places.deleted()?.focus();
}

/** Moves the focus into a panel, where opening it has lost the focus. */
export async function focusPanel(inside: HTMLElement): Promise<void> {
  await tick();
  if (lost()) places.panel(inside)?.focus();
}
