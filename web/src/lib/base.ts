/** What the paths of all addresses begin with: nothing in the first workspace, "/w/NAME" in another. */
export const base = /^\/w\/[^/]+/.exec(location.pathname)?.[0] ?? "";

/** A path as seen from the workspace. */
export function within(path: string): string {
  return base && (path === base || path.startsWith(`${base}/`)) ? path.slice(base.length) || "/" : path;
}

/** An address of the API, for links and for what asks by itself. */
export function apiAddress(path: string): string {
  return `${base}/api${path}`;
}

/** The name under which a browser keeps something of this workspace. */
export function keptAs(name: string): string {
  return base ? `${name} ${base}` : name;
}
