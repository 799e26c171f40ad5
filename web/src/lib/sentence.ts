import { usableIn } from "./focus";

/** Marks a sentence that {@link sentence} handles. */
const SENTENCE = "data-sentence";
/** What opens over a sentence keeps its keys. */
const OVER = ".panel, [role='dialog'], [role='listbox']";
const HANDLE = "[data-handle]";
const WRITTEN_IN = "input, textarea";

type Step = (phrases: HTMLElement[], at: number) => HTMLElement | undefined;

const middle = (element: HTMLElement) => {
  const { left, right, top, bottom } = element.getBoundingClientRect();
  return { x: (left + right) / 2, y: (top + bottom) / 2, height: bottom - top };
};

/** The phrase in the next row in a direction that stands nearest above or below. */
function inRow(direction: 1 | -1): Step {
  return (phrases, at) => {
    const from = middle(phrases[at]!);
    const away = (one: HTMLElement) => (middle(one).y - from.y) * direction;
    const beyond = phrases.filter((one) => away(one) > from.height / 2);
    const row = Math.min(...beyond.map(away));
    const sideways = (one: HTMLElement) => Math.abs(middle(one).x - from.x);
    return beyond
      .filter((one) => away(one) < row + from.height / 2)
      .toSorted((one, other) => sideways(one) - sideways(other))[0];
  };
}

const STEPS: Record<string, Step> = {
  ArrowRight: (phrases, at) => phrases[at + 1],
  ArrowLeft: (phrases, at) => phrases[at - 1],
  ArrowDown: inRow(1),
  ArrowUp: inRow(-1),
  Home: (phrases) => phrases[0],
  End: (phrases) => phrases.at(-1),
};

function wording(phrase: HTMLElement): string {
  const text = phrase instanceof HTMLSelectElement ? phrase.selectedOptions[0]?.text : phrase.textContent;
  return (text ?? "").replace(/^[^\p{L}\p{N}]+/u, "").toLowerCase();
}

/** To the next phrase that begins with a letter, from the first one again after the last. */
function byLetter(letter: string): Step {
  return (phrases, at) =>
    [...phrases.slice(at + 1), ...phrases.slice(0, at)].find((one) => wording(one).startsWith(letter));
}

/** Fields that are written in keep all keys; a list of choices keeps up and down, which choose in it. */
function keeps(target: HTMLElement, key: string): boolean {
  if (target.matches(WRITTEN_IN)) return true;
  return target instanceof HTMLSelectElement && ["ArrowUp", "ArrowDown"].includes(key);
}

/** The phrases of a sentence that can be changed, without handles that the arrow keys move. */
function phrasesOf(node: HTMLElement): HTMLElement[] {
  return usableIn(node).filter((one) => one.closest(OVER) === null && !one.matches(HANDLE));
}

/**
 * Goes through the phrases of a sentence by key: by arrow keys, to the first and last by Home and End, and by letter to
 * the next phrase that begins with it. An attachment.
 */
export function sentence(node: HTMLElement): () => void {
  const pressed = (event: KeyboardEvent) => {
    const { target, key } = event;
    if (!(target instanceof HTMLElement) || event.ctrlKey || event.metaKey || event.altKey || event.shiftKey)
      return;
    if (event.defaultPrevented || keeps(target, key)) return;
    const phrases = phrasesOf(node);
    const at = phrases.indexOf(target);
    const letter = /^[\p{L}\p{N}]$/u.test(key) ? key.toLowerCase() : null;
    const step = letter ? byLetter(letter) : STEPS[key];
    if (at < 0 || !step) return;
    // Letters act on the sentence alone, also where no phrase begins with them.
    event.preventDefault();
    event.stopPropagation();
    step(phrases, at)?.focus();
  };
  node.setAttribute(SENTENCE, "");
  node.addEventListener("keydown", pressed);
  return () => node.removeEventListener("keydown", pressed);
}

/** Moves the focus to the first phrase of the first sentence of the page. */
export function focusSentence(): void {
  const first = document.querySelector<HTMLElement>(`#main [${SENTENCE}]`);
  if (first) phrasesOf(first)[0]?.focus();
}
