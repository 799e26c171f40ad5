import { address } from "../lib/address.svelte";
import { keptAs } from "../lib/base";
import type { Node } from "./definition";

// Servers take no longer addresses than this, written in the address's own way.
const LONGEST = 4000;

export type Written = { name: string; folder: string; note: string };

/** What is not saved yet of an audience: in the address, so that it survives a reload; a definition too long for one is kept by the browser. */
export class Draft {
  private readonly kept: string;

  constructor(id: number | null) {
    this.kept = keptAs(`estrel-draft-${id ?? "new"}`);
  }

  /** What there is of a draft; what there is none of is as it was saved. `basis` is when what it changes was saved. */
  read(saved: Written): Written & { definition: Node | null; basis: string | null } {
    // A draft that was noted before signing in again stands in the address bar only.
    const text = address.noted("definition") ?? sessionStorage.getItem(this.kept);
    return {
      name: address.noted("name") ?? saved.name,
      folder: address.noted("folder") ?? saved.folder,
      note: address.noted("note") ?? saved.note,
      definition: text ? (JSON.parse(text) as Node) : null,
      basis: address.noted("basis"),
    };
  }

  /** Keeps what differs from what was saved, and when that was; the time noted before where none is given. */
  keep(written: Written, saved: Written | null, text: string, basis = address.noted("basis")): void {
    const long = text.length > LONGEST;
    if (long) sessionStorage.setItem(this.kept, text);
    else sessionStorage.removeItem(this.kept);
    this.note({
      definition: long ? null : text,
      name: written.name || null,
      folder: written.folder === (saved?.folder ?? "") ? null : written.folder,
      note: written.note === (saved?.note ?? "") ? null : written.note,
      basis,
    });
  }

  forget(): void {
    sessionStorage.removeItem(this.kept);
    this.note({ definition: null, name: null, folder: null, note: null, basis: null });
  }

  private note(wanted: Record<string, string | null>): void {
    // What has been noted stands in the bar of the browser only.
    const held = new URLSearchParams(location.search);
    if (Object.entries(wanted).some(([key, value]) => held.get(key) !== value)) address.note(wanted);
  }
}
