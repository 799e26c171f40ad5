/**
 * Steps that can be undone and done again. Quick changes one after the other, as in typing a number, are one step,
 * unless something else is done in between.
 */
export class Steps<T> {
  private past = $state.raw<T[]>([]);
  private future = $state.raw<T[]>([]);
  private last = -Infinity;
  private readonly together: number;

  constructor(together = 700) {
    this.together = together;
  }

  /** Notes the state before a change. */
  note(before: T, now = Date.now()): void {
    if (now - this.last > this.together) this.past = [...this.past, before];
    this.last = now;
    this.future = [];
  }

  /** Whatever is changed from now on is another step. */
  part(): void {
    this.last = -Infinity;
  }

  get undoable(): boolean {
    return this.past.length > 0;
  }

  get redoable(): boolean {
    return this.future.length > 0;
  }

  /** Goes a step back and returns the state there; null where there is none. `current` gives the state to return to. */
  undo(current: (found: T) => T): T | null {
    return this.step("past", "future", current);
  }

  redo(current: (found: T) => T): T | null {
    return this.step("future", "past", current);
  }

  private step(from: "past" | "future", to: "past" | "future", current: (found: T) => T): T | null {
    const found = this[from].at(-1);
    if (found === undefined) return null;
    this[from] = this[from].slice(0, -1);
    this[to] = [...this[to], current(found)];
    this.part();
    return found;
  }
}
