import { keptAs } from "./base";

/**
 * What a form holds before it is saved. This tab keeps it until it is saved or given up, so it survives a reload, a new
 * sign-in and going to another place.
 */
export class FormDraft<T extends object> {
  private readonly kept: string;

  constructor(name: string) {
    this.kept = keptAs(`estrel-form-${name}`);
  }

  get exists(): boolean {
    return sessionStorage.getItem(this.kept) !== null;
  }

  /** The fields kept for this form; fields that were not kept are as they are in `saved`. Null if nothing is kept. */
  read(saved: T): T | null {
    const text = sessionStorage.getItem(this.kept);
    if (text === null) return null;
    const kept = JSON.parse(text) as Partial<T>;
    const known = Object.entries(kept).filter(([name]) => name in saved);
    return { ...saved, ...Object.fromEntries(known) };
  }

  /** Keeps what differs from `saved`; forgets the draft if nothing does. */
  keep(written: T, saved: T): void {
    const changed = Object.entries(written).filter(
      ([name, value]) => JSON.stringify(value) !== JSON.stringify(saved[name as keyof T]),
    );
    if (changed.length) sessionStorage.setItem(this.kept, JSON.stringify(Object.fromEntries(changed)));
    else this.forget();
  }

  forget(): void {
    sessionStorage.removeItem(this.kept);
  }
}
