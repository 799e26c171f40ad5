import type { Progress } from "./api/ask";
import { Resource } from "./resource.svelte";
import { workspace } from "./workspace.svelte";

/** Something that is loaded again whenever the ledger or the lifecycle rules have changed, too. */
export class Live<T> extends Resource<T> {
  constructor(load: (signal: AbortSignal, tell: (progress: Progress) => void) => Promise<T>) {
    super((signal, tell) => {
      void workspace.info?.generation;
      void workspace.ruleSets;
      return load(signal, tell);
    });
  }
}
