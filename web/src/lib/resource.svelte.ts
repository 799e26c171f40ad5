import { problemOf, type Problem } from "./api/client";

/**
 * Something loaded from the server, loaded again whenever what it depends on changes. The newest question wins: an
 * unfinished earlier one is cancelled. While loading, the previous answer stays, so nothing jumps.
 */
export class Resource<T> {
  data = $state.raw<T | null>(null);
  problem = $state<Problem | null>(null);
  loading = $state(true);
  private load: (signal: AbortSignal) => Promise<T>;
  private running: AbortController | null = null;

  constructor(load: (signal: AbortSignal) => Promise<T>) {
    this.load = load;
    $effect(() => {
      void this.reload();
      return () => this.running?.abort();
    });
  }

  async reload(): Promise<void> {
    this.running?.abort();
    const mine = new AbortController();
    this.running = mine;
    const loading = this.load(mine.signal);
    this.loading = true;
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
  }
}
