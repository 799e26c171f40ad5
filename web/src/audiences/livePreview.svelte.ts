import { untrack } from "svelte";
import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
import type { Definition } from "./definition";
import { connection } from "../lib/connection.svelte";
import { workspace } from "../lib/workspace.svelte";

const WAIT = 80;
/** What costs more than the size is asked for once the sentence rests. */
const REST = 700;

/** The server's answer to a definition being written: asked again a moment after every change; the newest question wins. */
export class LivePreview {
  answer = $state.raw<Schemas["Preview"] | null>(null);
  /** The definition last answered that has not been changed for a while. */
  settled = $state.raw<Definition | null>(null);
  /** Whether the answer is of an earlier definition. */
  stale = $state(false);
  fault = $state<Problem | null>(null);
  private running: AbortController | null = null;
  private again: (() => void) | null = null;

  /** The definition to ask about; null while there is none yet. */
  constructor(definition: () => Definition | null) {
    let timer: ReturnType<typeof setTimeout>;
    $effect(() => {
      const asked = definition();
      const body = { definition: asked as Record<string, unknown>, ...workspace.dates };
      void workspace.ruleSets;
      if (!asked) return;
      clearTimeout(timer);
      // An answer still to come is of an earlier definition.
      this.running?.abort();
      this.stale = true;
      this.again = () => void this.ask(body);
      timer = setTimeout(this.again, WAIT);
    });
    $effect(() => {
      if (connection.returns && untrack(() => this.fault?.status === 0)) untrack(() => this.again?.());
    });
    $effect(() => {
      const found = this.answer;
      if (!found) return;
      const resting = setTimeout(
        () => (this.settled = found.definition as Definition),
        this.settled ? REST : 0,
      );
      return () => clearTimeout(resting);
    });
  }

  private async ask(body: { definition: Record<string, unknown>; as_of: string }): Promise<void> {
    this.running?.abort();
    const { signal } = (this.running = new AbortController());
    try {
      const found = await answer(api.POST("/audiences/preview", { body, signal }));
      if (signal.aborted) return;
      this.answer = found;
      this.fault = null;
      this.stale = false;
    } catch (error) {
      if (!signal.aborted) this.fault = problemOf(error);
    }
  }
}
