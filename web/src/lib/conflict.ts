import { Refusal } from "./api/client";

/**
 * What someone else has saved, where that is why a save was refused; null for any other error.
 *
 * @param changed what the change began with
 * @param load reads what is saved now
 */
export async function theirsOf<T extends { updated_at: string }>(
  error: unknown,
  changed: { updated_at: string },
  load: () => Promise<T>,
): Promise<T | null> {
  if (!(error instanceof Refusal) || error.problem.status !== 409) return null;
  const saved = await load();
  return saved.updated_at === changed.updated_at ? null : saved;
}
