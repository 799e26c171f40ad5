import { keptAs } from "../lib/base";
import { address } from "../lib/address.svelte";
import { answer, api, Refusal } from "../lib/api/client";
import { said } from "../lib/toasts.svelte";

export const MOST = 6;
const KEPT = keptAs("estrel-comparison");

/** An audience that is compared by: its number, and whether is compared by it just now. */
export type Chosen = { id: number; on: boolean };

function named(text: string | null): Chosen[] {
  return (text ?? "")
    .split(",")
    .map((part) => ({ id: Number.parseInt(part, 10), on: !part.endsWith("-") }))
    .filter((row) => row.id > 0);
}

/** "3,5-,7": the numbers in order, those not compared by marked; no more than can be compared. */
export function read(text: string | null): Chosen[] {
  return named(text).slice(0, MOST);
}

export function write(chosen: Chosen[]): string | null {
  return chosen.map((row) => `${row.id}${row.on ? "" : "-"}`).join(",") || null;
}

export function letter(position: number): string {
  return "ABCDEF"[position] ?? "?";
}

/** The audiences an analyst has chosen to compare everything by. They are in the address, come along to every place, and are remembered. */
class Comparison {
  names = $state.raw<Record<number, string>>({});
  /** Whether the names of those in the address have been looked up. */
  named = $state(false);

  get chosen(): Chosen[] {
    return read(address.get("compare"));
  }

  /** How many more the address names than can be compared. */
  get beyond(): number {
    return Math.max(named(address.get("compare")).length - MOST, 0);
  }

  /** Those compared by, as the API takes them. */
  get active(): number[] {
    return this.chosen.filter((row) => row.on).map((row) => row.id);
  }

  /** As the API takes it in an address. */
  get query(): string | undefined {
    return this.active.join(",") || undefined;
  }

  has(id: number): boolean {
    return this.chosen.some((row) => row.id === id);
  }

  position(id: number): number {
    return this.chosen.findIndex((row) => row.id === id);
  }

  name(id: number): string {
    return this.names[id] ?? "…";
  }

  add(id: number, name: string): void {
    if (this.chosen.length >= MOST)
      return said(`The comparison is full (${MOST} audiences). Remove one first.`);
    this.names = { ...this.names, [id]: name };
    this.set([...this.chosen, { id, on: true }]);
  }

  remove(id: number): void {
    this.set(this.chosen.filter((row) => row.id !== id));
  }

  toggle(id: number): void {
    this.set(this.chosen.map((row) => (row.id === id ? { ...row, on: !row.on } : row)));
  }

  /** The comparison as it was left, where the address does not name one. */
  restore(): void {
    const kept = localStorage.getItem(KEPT);
    if (kept && address.get("compare") === null) this.go(kept);
  }

  /** Looks up the names; audiences that are gone leave it. */
  async load(): Promise<void> {
    const missing = this.chosen.filter((row) => !(row.id in this.names));
    await Promise.all(missing.map(({ id }) => this.lookUp(id)));
    this.named = true;
  }

  private async lookUp(id: number): Promise<void> {
    try {
      const { name } = await answer(api.GET("/audiences/{id}", { params: { path: { id } } }));
      this.names = { ...this.names, [id]: name };
    } catch (error) {
      if (!(error instanceof Refusal && error.problem.status === 404)) return;
      this.remove(id);
      said("A deleted audience was removed from the comparison");
    }
  }

  private set(chosen: Chosen[]): void {
    const text = write(chosen);
    if (text) localStorage.setItem(KEPT, text);
    else localStorage.removeItem(KEPT);
    this.go(text);
  }

  private go(text: string | null): void {
    address.go(address.with({ compare: text }), { replace: true });
  }
}

export const comparison = new Comparison();
