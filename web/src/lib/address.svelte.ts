/* eslint-disable svelte/prefer-svelte-reactivity -- the query is replaced as a whole, never changed in place */

import { base, within } from "./base";
import { mayLeave } from "./leaving";
import { makesSense } from "./parameters";

/** How long a page may take to become high enough again after *Back*, milliseconds. */
const GROWING = 15_000;
/** Frames for which the scroll position must hold: the first ones may still show the page that was left. */
const STEADY = 10;

/** Restores the scroll position of a page once the page is high enough again, unless the user acts first. */
function scrollBack(top: number): void {
  const acted = new AbortController();
  for (const name of ["wheel", "touchstart", "pointerdown", "keydown"])
    addEventListener(name, () => acted.abort(), { signal: acted.signal });
  const until = performance.now() + GROWING;
  let steady = 0;
  const frame = () => {
    if (acted.signal.aborted) return;
    steady = Math.abs(scrollY - top) < 2 ? steady + 1 : 0;
    scrollTo(0, top);
    if (steady > STEADY || performance.now() > until) acted.abort();
    else requestAnimationFrame(frame);
  };
  frame();
}

/** The address is the state: path and query of everything on screen. */
class Address {
  /** Within the workspace. */
  path = $state(within(location.pathname));
  query = $state(new URLSearchParams());
  /** Names whose values make no sense; they are left out. */
  left = $state.raw<string[]>([]);

  constructor() {
    this.read();
    history.scrollRestoration = "manual";
    addEventListener("popstate", (event) => {
      const whole = this.with({});
      if (within(location.pathname) !== this.path && !mayLeave()) {
        history.pushState(null, "", whole);
        return;
      }
      this.read();
      scrollBack((event.state as { scroll?: number } | null)?.scroll ?? 0);
    });
  }

  get(name: string): string | null {
    return this.query.get(name);
  }

  /** What the address bar holds under a name, including what was only noted. */
  noted(name: string): string | null {
    return this.left.includes(name) ? null : new URLSearchParams(location.search).get(name);
  }

  /** The current address with some parameters changed; null removes one. */
  with(changes: Record<string, string | null>, path = this.path): string {
    const query = new URLSearchParams(path === this.path ? this.query : this.carried());
    for (const [name, value] of Object.entries(changes)) {
      if (value === null || value === "") query.delete(name);
      else query.set(name, value);
    }
    const text = query.toString();
    return text ? `${base}${path}?${text}` : base + path;
  }

  /** Another place, as of the same date. */
  to(path: string, query: Record<string, string | null> = {}): string {
    const carried = this.carried();
    for (const [name, value] of Object.entries(query)) if (value) carried.set(name, value);
    const text = carried.toString();
    return text ? `${base}${path}?${text}` : base + path;
  }

  go(url: string, options: { replace?: boolean } = {}): void {
    const { pathname, search, hash } = new URL(url, location.href);
    const path = within(pathname);
    const leaving = path !== this.path;
    if (leaving && !mayLeave()) return;
    const whole = base + path + search + hash;
    if (options.replace) history.replaceState(history.state, "", whole);
    else {
      history.replaceState({ scroll: scrollY }, "");
      history.pushState(null, "", whole);
    }
    this.read();
    if (leaving) scrollTo(0, 0);
  }

  /** Keeps something in the address without going anywhere: nothing that reads the address is asked anew. */
  note(changes: Record<string, string | null>): void {
    history.replaceState(history.state, "", this.with(changes));
  }

  /** Follows plain clicks on links of our own without loading the page anew. */
  follow(event: MouseEvent): void {
    const link = (event.target as Element).closest?.("a");
    if (!link || event.defaultPrevented || event.button !== 0) return;
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
    if (link.target || link.hasAttribute("download") || link.origin !== location.origin) return;
    if (within(link.pathname).startsWith("/api/")) return;
    // To a part of this page, such as its contents.
    if (link.hash && link.pathname === location.pathname && link.search === location.search) return;
    event.preventDefault();
    this.go(link.href);
  }

  /** What goes along to every place: the dates of the question, the rule set and the comparison. */
  private carried(): URLSearchParams {
    const kept = ["as_of", "received_by", "rules", "compare"].map(
      (name) => [name, this.query.get(name)] as const,
    );
    return new URLSearchParams(kept.filter(([, value]) => value) as [string, string][]);
  }

  private read(): void {
    this.path = within(location.pathname);
    const query = new URLSearchParams(location.search);
    this.left = [...query].filter(([name, text]) => !makesSense(name, text)).map(([name]) => name);
    for (const name of this.left) query.delete(name);
    this.query = query;
  }
}

export const address = new Address();
