import { address } from "../lib/address.svelte";
import { answer, api } from "../lib/api/client";
import { said } from "../lib/toasts.svelte";

export const MOST = 6;
const KEPT = "estrel-tray";

/** A pinned audience: its number, and whether is compared by it just now. */
export type Pinned = { id: number; on: boolean };

/** "3,5-,7": the numbers in order, those not compared by marked. */
export function read(text: string | null): Pinned[] {
  return (text ?? "")
    .split(",")
    .map((part) => ({ id: Number.parseInt(part, 10), on: !part.endsWith("-") }))
    .filter((row) => row.id > 0)
    .slice(0, MOST);
}

export function write(pinned: Pinned[]): string | null {
  return pinned.map((row) => `${row.id}${row.on ? "" : "-"}`).join(",") || null;
}

export function letter(position: number): string {
  return "ABCDEF"[position] ?? "?";
}

/** The audiences an analyst has pinned. They are in the address, come along to every place, and are remembered. */
class Tray {
  names = $state.raw<Record<number, string>>({});

  get pinned(): Pinned[] {
    return read(address.get("tray"));
  }

  /** Those compared by, as the API takes them. */
  get active(): number[] {
    return this.pinned.filter((row) => row.on).map((row) => row.id);
  }

  /** As the API takes it in an address. */
  get query(): string | undefined {
    return this.active.join(",") || undefined;
  }

  has(id: number): boolean {
    return this.pinned.some((row) => row.id === id);
  }

  position(id: number): number {
    return this.pinned.findIndex((row) => row.id === id);
  }

  name(id: number): string {
    return this.names[id] ?? "…";
  }

  pin(id: number, name: string): void {
    if (this.pinned.length >= MOST) return said(`The tray holds ${MOST} audiences; take one out first`);
    this.names = { ...this.names, [id]: name };
    this.set([...this.pinned, { id, on: true }]);
  }

  unpin(id: number): void {
    this.set(this.pinned.filter((row) => row.id !== id));
  }

  toggle(id: number): void {
    this.set(this.pinned.map((row) => (row.id === id ? { ...row, on: !row.on } : row)));
  }

  /** The tray as it was left, where the address does not name one. */
  restore(): void {
    const kept = localStorage.getItem(KEPT);
    if (kept && address.get("tray") === null) this.go(kept);
  }

  /** Looks up the names; audiences that are gone leave the tray. */
  async load(): Promise<void> {
    const missing = this.pinned.filter((row) => !(row.id in this.names));
    for (const { id } of missing) {
      try {
        const found = await answer(api.GET("/audiences/{id}", { params: { path: { id } } }));
        this.names = { ...this.names, [id]: found.name };
      } catch {
        this.unpin(id);
      }
    }
  }

  private set(pinned: Pinned[]): void {
    const text = write(pinned);
    if (text) localStorage.setItem(KEPT, text);
    else localStorage.removeItem(KEPT);
    this.go(text);
  }

  private go(text: string | null): void {
    address.go(address.with({ tray: text }), { replace: true });
  }
}

export const tray = new Tray();
