import { problemOf, type Problem } from "./api/client";
import { Resource } from "./resource.svelte";

/** Things that are kept on the server, and what was refused of the last change to them. */
export class Kept<T> extends Resource<T> {
  refused = $state<Problem | null>(null);

  /** Changes something and reads all of it again. */
  async attempt(work: () => Promise<unknown>): Promise<void> {
    this.refused = null;
    try {
      await work();
      await this.reload();
    } catch (error) {
      this.refused = problemOf(error);
    }
  }
}
