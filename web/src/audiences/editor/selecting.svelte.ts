/** The conditions of a sentence that are selected, by their places; all in one list. */
export const selecting = $state<{ places: string[] }>({ places: [] });

export function toggled(place: string): void {
  const list = (one: string) => one.slice(0, one.lastIndexOf("["));
  const kept = selecting.places.filter((other) => list(other) === list(place));
  selecting.places = kept.includes(place) ? kept.filter((other) => other !== place) : [...kept, place];
}
