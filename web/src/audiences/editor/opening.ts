/** The phrase that opens as soon as it stands on screen: the next one that matters of a condition just added. */
class Opening {
  place = "";
  slot = "";
  path = "";

  next(place: string, slot: string, path = ""): void {
    Object.assign(this, { place, slot, path });
  }

  /** Whether the phrase is the one; it is asked once. */
  takes(place: string, slot: string, path: string): boolean {
    const wanted = place === this.place && slot === this.slot && (this.path === "" || this.path === path);
    if (wanted) this.next("", "");
    return wanted;
  }
}

export const opening = new Opening();
