import type { Mark } from "./notes.svelte";

const LETTERS = 40;
const LETTER = 6.4;
export const ROW = 14;
/** A note with its words above a picture: where it stands, and in which row from below. */
export type Above = { place: number; at: number; text: string; short: string; turned: boolean; row: number };

/**
 * The words of notes above a picture, each higher than all after it that begin before it ends: so none overlaps
 * another, and the line of none goes through words before it.
 *
 * @param marked what stands at each place
 * @param at where each place lies
 * @param width of the picture: words that would leave it stand before their place
 */
export function above(marked: Mark[][], at: number[], width: number): Above[] {
  const placed: (Above & { begins: number })[] = [];
  for (const [place, here] of [...at.entries()].reverse()) {
    const own = (marked[place] ?? []).filter(({ kind }) => kind === "note").map(({ text }) => text);
    if (!own.length) continue;
    const text = own.join("; ");
    const short = text.length > LETTERS ? `${text.slice(0, LETTERS - 1)}…` : text;
    const long = (short.length + 1) * LETTER;
    const turned = here + long > width;
    const begins = turned ? here - long : here;
    const below = placed.filter((after) => after.begins < begins + long);
    const row = Math.max(-1, ...below.map((after) => after.row)) + 1;
    placed.unshift({ place, at: here, text, short, turned, row, begins });
  }
  return placed;
}
