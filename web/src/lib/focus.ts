import { tick } from "svelte";

const FOCUSABLE =
  ":is(a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex]:not([tabindex='-1']))";
/** In a panel with a calendar the day comes first, since the arrow keys act on it. */
const FIRST_IN_PANEL = "[data-part='table-cell-trigger'][tabindex='0']";
/** Milliseconds for which a button that is disabled while it works keeps its place. */
const PATIENCE = 700;

function usable(element: HTMLElement): boolean {
  return element.closest("[inert]") === null && (element.checkVisibility?.() ?? true);
}

/** What can have the focus in an element, itself included, in the order of the page. */
export function usableIn(parent: Element): HTMLElement[] {
  const own = parent.matches(FOCUSABLE) ? [parent as HTMLElement] : [];
  return [...own, ...parent.querySelectorAll<HTMLElement>(FOCUSABLE)].filter(usable);
}

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
  const main = document.getElementById("main");
  if (main && !main.contains(document.activeElement)) main.focus({ preventScroll: true });
}

/**
 * @param inside a panel
 * @returns what has the focus after the panel has opened
 */
export function firstIn(inside: HTMLElement): HTMLElement | null {
  return inside.querySelector<HTMLElement>(FIRST_IN_PANEL) ?? usableIn(inside)[0] ?? null;
}

/** Moves the focus into a panel, where opening it has lost the focus. */
export async function focusPanel(inside: HTMLElement): Promise<void> {
  await tick();
  if (lost()) firstIn(inside)?.focus();
}

/** Moves the focus from a button to the result it led to, unless it has moved elsewhere meanwhile. */
export function focusResult(from: HTMLElement | undefined, result: HTMLElement): void {
  if (lost() || document.activeElement === from) result.focus();
}

/** Where an element stands: its ancestors, each with the position of the branch that holds it. */
type Seat = { parent: Element; at: number }[];

function seatOf(element: Element): Seat {
  const seat: Seat = [];
  for (let one = element; one.parentElement; one = one.parentElement)
    seat.push({ parent: one.parentElement, at: [...one.parentElement.children].indexOf(one) });
  return seat;
}

/** What is nearest to a seat: what follows in the innermost ancestor that is left, or else what precedes. */
function nearest(seat: Seat): HTMLElement | null {
  for (const { parent, at } of seat) {
    if (!parent.isConnected || parent.closest("[inert]")) continue;
    const children = [...parent.children];
    for (const child of [...children.slice(at), ...children.slice(0, at).reverse()]) {
      const near = usableIn(child)[0];
      if (near) return near;
    }
    if (parent.id === "main") break;
  }
  return document.getElementById("main");
}

/**
 * Keeps the focus from falling to the page. Where what had it is removed, made inert or stays disabled, the focus goes to
 * the nearest thing that can have it: after a step was removed to the next step, after a form was closed to what follows
 * it, after a row was deleted to the next row, after signing in to the beginning of the place.
 *
 * @returns ends it
 */
export function keepFocus(): () => void {
  let last: HTMLElement | null = null;
  let seat: Seat = [];
  let waiting = 0;

  const remember = ({ target }: FocusEvent) => {
    clearTimeout(waiting);
    if (!(target instanceof HTMLElement) || target.id === "main") return;
    last = target;
    seat = seatOf(target);
  };
  // A press on the page itself gives the focus up.
  const forget = () => (last = null);
  const settle = (was: HTMLElement) => {
    if (last !== was || !lost()) return;
    if (usable(was) && was.isConnected && !was.matches(":disabled")) was.focus();
    else nearest(seat)?.focus({ preventScroll: true });
  };
  // The browser takes the focus away a moment after the element is disabled or made inert.
  const look = () => {
    if (!last) return;
    const disabled = last.isConnected && last.matches(":disabled");
    if (last.isConnected && !disabled && last.closest("[inert]") === null) return;
    clearTimeout(waiting);
    waiting = window.setTimeout(settle, disabled ? PATIENCE : 50, last);
  };

  const observer = new MutationObserver(look);
  observer.observe(document.body, {
    subtree: true,
    childList: true,
    attributes: true,
    attributeFilter: ["disabled", "inert"],
  });
  document.addEventListener("focusin", remember);
  document.addEventListener("pointerdown", forget, true);
  return () => {
    observer.disconnect();
    clearTimeout(waiting);
    document.removeEventListener("focusin", remember);
    document.removeEventListener("pointerdown", forget, true);
  };
}
