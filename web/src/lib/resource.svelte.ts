import { untrack } from "svelte";
import type { Progress } from "./api/ask";
import { problemOf, type Problem } from "./api/client";
import { connection } from "./connection.svelte";

type Tell = (progress: Progress) => void;

/**
 * Something loaded from the server, loaded again whenever what it depends on changes. The newest question wins: an
 * unfinished earlier one is cancelled. While loading, the previous answer stays, so nothing jumps.
 */
export class Resource<T> {
  data = $state.raw<T | null>(null);
  problem = $state<Problem | null>(null);
  loading = $state(true);
  /** How far the answer is, where that is told. */
  progress = $state.raw<Progress | null>(null);
  /** Whether the question was given up by hand. */
  cancelled = $state(false);
  private load: (signal: AbortSignal, tell: Tell) => Promise<T>;
  private running: AbortController | null = null;
  /** Whether what it was loaded for is no longer shown. */
  private gone = false;

  constructor(load: (signal: AbortSignal, tell: Tell) => Promise<T>) {
    this.load = load;
    $effect(() => {
      void this.reload();
      return () => this.running?.abort();
    });
    $effect(() => () => {
      this.gone = true;
    });
    // What failed without an answer is asked again once there are answers.
    $effect(() => {
      if (connection.returns && untrack(() => this.problem?.status === 0)) void untrack(() => this.reload());
    });
  }

  async reload(): Promise<void> {
    if (this.gone) return;
    this.running?.abort();
    const mine = new AbortController();
    this.running = mine;
    const loading = this.load(mine.signal, (progress) => {
      if (!mine.signal.aborted) this.progress = progress;
    });
    this.loading = true;
    this.progress = null;
    this.cancelled = false;
    try {
      const data = await loading;
      if (mine.signal.aborted) return;
      this.data = data;
      this.problem = null;
    } catch (error) {
      if (mine.signal.aborted) return;
      this.problem = problemOf(error);
    }
    this.loading = false;
    this.progress = null;
  }

  /** Gives the question up; the answer before stays. */
  cancel(): void {
    this.running?.abort();
    this.loading = false;
    this.progress = null;
    this.cancelled = true;
  }
}
