import { address } from "../lib/address.svelte";
import { isDate, isWhole } from "../lib/parameters";
import { isSelection, parsed } from "../lib/shapes";
import type { Selection } from "../audiences/definition";
import { BESIDES, by, type By } from "./SplitBy.svelte";

const MOST = 1_000_000;

/** Reads a question out of the address. What makes no sense is left out, and remembered by name so that it can be said. */
export class Reader {
  readonly left: string[] = [];

  date(name: string): string | null {
    return this.read(name, (text) => (isDate(text) ? text : null));
  }

  whole(name: string, least: number, most: number): number | null {
    return this.read(name, (text) => (isWhole(text, least, most) ? Number(text) : null));
  }

  oneOf<T extends string>(name: string, known: readonly T[]): T | null {
    return this.read(name, (text) => known.find((one) => one === text) ?? null);
  }

  text(name: string): string | null {
    return this.read(name, (text) => text);
  }

  /** Which events: the name of one type, or as a condition of an audience has them. */
  selection(name: string): Selection | null {
    return this.read(name, (text) => (text.startsWith("{") ? parsed(text, isSelection) : { event: text }));
  }

  /** Several of these, as JSON. */
  list(name: string): Selection[] {
    const all = (json: unknown): json is Selection[] => Array.isArray(json) && json.every(isSelection);
    return this.read(name, (text) => parsed(text, all)) ?? [];
  }

  parsed<T>(name: string, parse: (text: string) => T | null): T | null {
    return this.read(name, parse);
  }

  split(name: string) {
    return this.read(name, by);
  }

  /** What people are told apart by, by two things at once where the address says so. */
  splits(name: string): By | null {
    const first = this.split(name);
    const second = first && this.besides();
    return second ? { both: [first, second] } : first;
  }

  /** What people are told apart by besides. */
  besides() {
    return this.read(BESIDES, by);
  }

  private read<T>(name: string, parse: (text: string) => T | null): T | null {
    const text = address.get(name);
    if (text === null || text === "") return null;
    const value = parse(text);
    if (value === null) this.left.push(name);
    return value;
  }
}

/** Numbers that rise, whole ones unless parts are allowed: "1,2,3,6". Null where they do not, or are more than so many. */
export function rising(text: string, least: number, most: number, parts = false): number[] | null {
  const found = text
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number);
  const rise = found.every(
    (one, at) =>
      (parts ? Number.isFinite(one) : Number.isInteger(one)) &&
      one >= least &&
      one <= MOST &&
      one > (found[at - 1] ?? -1),
  );
  return found.length > 0 && found.length <= most && rise ? found : null;
}

/** As {@link Reader.selection} reads it. */
export function selectionText(selection: Selection): string {
  const plain = selection.event && !selection.where?.length;
  return plain ? selection.event! : JSON.stringify(selection);
}

/** Changes the question in the address. */
export function put(changes: Record<string, string | number | null>): void {
  const texts = Object.entries(changes).map(([name, value]) => [name, value === null ? null : String(value)]);
  address.go(address.with(Object.fromEntries(texts)), { replace: true });
}
