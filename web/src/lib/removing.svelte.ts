import { problemOf, type Problem } from "./api/client";
import { said, UNDO_SECONDS } from "./toasts.svelte";

type Row = { id: number | null; name: string };

/**
 * Deletes rows of a list. A deleted row keeps its place until the time to undo it has passed, so that no other row comes
 * under a pointer that clicks twice.
 */
export class Removing<T extends Row> {
  problem = $state<Problem | null>(null);
  private gone = $state.raw<{ row: T; at: number }[]>([]);
  private readonly reload: () => Promise<unknown>;

  constructor(reload: () => Promise<unknown>) {
    this.reload = reload;
  }

  /** Deletes a row of those shown, and offers to undo it. */
  async remove(
    row: T,
    shown: T[],
    remove: () => Promise<unknown>,
    restore: () => Promise<unknown>,
  ): Promise<void> {
    this.problem = null;
    const at = shown.findIndex(({ id }) => id === row.id);
    try {
      await remove();
    } catch (error) {
      this.problem = problemOf(error);
      return;
    }
    const gone = { row, at };
    this.gone = [...this.gone, gone];
    const forget = () => (this.gone = this.gone.filter((one) => one !== gone));
    await this.reload();
    setTimeout(forget, UNDO_SECONDS * 1000);
    said(`“${row.name}” has been deleted`, async () => {
      await restore();
      forget();
      await this.reload();
    });
  }

  /** The rows there are, and in their places those that are deleted. */
  placed(rows: T[]): { row: T; gone: boolean }[] {
    const placed = rows.map((row) => ({ row, gone: false }));
    const missing = this.gone.filter(({ row }) => !rows.some(({ id }) => id === row.id));
    for (const { row, at } of missing.toSorted((one, other) => one.at - other.at))
      placed.splice(at, 0, { row, gone: true });
    return placed;
  }
}
