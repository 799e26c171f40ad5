import { workspace } from "./workspace.svelte";

const NAMES: Record<string, string> = {
  customer: "customer IDs",
  visitor: "visitor IDs",
  email: "email addresses",
  phone: "phone numbers",
};

/** The kinds of identifiers people here have. */
export function identifierKinds(): string[] {
  return (workspace.catalogue?.columns ?? [])
    .filter((column) => column.startsWith("identifier:"))
    .map((column) => column.replace("identifier:", ""));
}

export function kindName(kind: string): string {
  return NAMES[kind] ?? `${kind} IDs`;
}
