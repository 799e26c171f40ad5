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

/** The status of a save of something that has been deleted meanwhile. */
export const GONE = 410;

/**
 * The error of a save; {@link GONE} where the object has been deleted meanwhile.
 *
 * @param what "audience"
 */
export function saveError(error: unknown, what: string): unknown {
  if (!(error instanceof Refusal) || error.problem.status !== 404) return error;
  const detail = `Someone has deleted this ${what} since you opened it. Restore it to save your changes.`;
  return new Refusal({ ...error.problem, status: GONE, title: "Gone", detail });
}
