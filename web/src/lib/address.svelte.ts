/* eslint-disable svelte/prefer-svelte-reactivity -- the query is replaced as a whole, never changed in place */

/** The address is the state: path and query of everything on screen. */
class Address {
  path = $state(location.pathname);
  query = $state(new URLSearchParams(location.search));
  constructor() {
    addEventListener("popstate", () => this.read());
  }

  get(name: string): string | null {
    return this.query.get(name);
  }

  /** The current address with some parameters changed; null removes one. */
  with(changes: Record<string, string | null>, path = this.path): string {
    const query = new URLSearchParams(path === this.path ? this.query : this.carried());
    for (const [name, value] of Object.entries(changes)) {
      if (value === null || value === "") query.delete(name);
      else query.set(name, value);
    }
    const text = query.toString();
    return text ? `${path}?${text}` : path;
  }

  /** Another place, as of the same date. */
  to(path: string, query: Record<string, string | null> = {}): string {
    const carried = this.carried();
    for (const [name, value] of Object.entries(query)) if (value) carried.set(name, value);
    const text = carried.toString();
    return text ? `${path}?${text}` : path;
  }

  go(url: string, options: { replace?: boolean } = {}): void {
    const leaving = new URL(url, location.href).pathname !== this.path;
    if (options.replace) history.replaceState(null, "", url);
    else history.pushState(null, "", url);
    this.read();
    if (leaving) scrollTo(0, 0);
  }

  /** Follows plain clicks on links of our own without loading the page anew. */
  follow(event: MouseEvent): void {
    const link = (event.target as Element).closest?.("a");
    if (!link || event.defaultPrevented || event.button !== 0) return;
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
    if (link.target || link.hasAttribute("download") || link.origin !== location.origin) return;
    if (link.pathname.startsWith("/api/")) return;
    event.preventDefault();
    this.go(link.href);
  }

  private carried(): URLSearchParams {
    const asOf = this.query.get("as_of");
    return new URLSearchParams(asOf ? { as_of: asOf } : {});
  }

  private read(): void {
    this.path = location.pathname;
    this.query = new URLSearchParams(location.search);
  }
}

export const address = new Address();
