import { getContext, setContext } from "svelte";

const KEY = Symbol("faulty");

/** Tells the lines of a sentence, however deep, which of them have something wrong in them, by their places. */
export function tellFaulty(places: () => (string | null)[]): void {
  setContext(KEY, places);
}

/** Whether something is wrong in the condition at a place. */
export function faulty(): (place: string) => boolean {
  const places = getContext<(() => (string | null)[]) | undefined>(KEY);
  return (place) => places?.().includes(place) ?? false;
}
