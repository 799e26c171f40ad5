import { address } from "./address.svelte";
import { answer, api, problemOf, type Problem, type Schemas } from "./api/client";

const POLL = 3000;

/** What every place needs: the workspace, the policy in force, the catalogue and the as-of date. */
class Workspace {
  info = $state.raw<Schemas["Workspace"] | null>(null);
  policy = $state.raw<Schemas["Policy"] | null>(null);
  catalogue = $state.raw<Schemas["Catalogue"] | null>(null);
  /** The workspace as of the last look, for telling how old the data is. */
  pulse = $state.raw<Schemas["Workspace"] | null>(null);
  problem = $state<Problem | null>(null);

  /** The date in the address, or else the last day there is data for. */
  get asOf(): string {
    return address.get("as_of") ?? this.info?.default_as_of ?? "";
  }

  /** Only what had been received by then, or everything where there is no date. */
  get knownOn(): string | undefined {
    return address.get("known_on") ?? undefined;
  }

  /** The dates of the question, as the API takes them. */
  get dates(): { as_of: string; known_on?: string } {
    return this.knownOn ? { as_of: this.asOf, known_on: this.knownOn } : { as_of: this.asOf };
  }

  async refresh(): Promise<void> {
    try {
      // All of it before anything is shown: whoever sees a place can use it.
      const info = await answer(api.GET("/workspace"));
      if (info.ready) {
        [this.policy, this.catalogue] = await Promise.all([
          answer(api.GET("/policy")),
          answer(api.GET("/catalogue")),
        ]);
      }
      this.info = this.pulse = info;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  /** Looks every few seconds whether there is anything new. */
  watch(): () => void {
    const timer = setInterval(() => {
      if (!document.hidden) void this.look();
    }, POLL);
    return () => clearInterval(timer);
  }

  /** Reads everything again where there is something new; otherwise only the pulse changes, and nothing else reloads. */
  private async look(): Promise<void> {
    try {
      this.pulse = await answer(api.GET("/workspace"));
      const news = this.pulse.generation !== this.info?.generation || this.pulse.ready !== this.info?.ready;
      if (news) await this.refresh();
    } catch {
      // the next look tells; what is on screen stays
    }
  }

  async changePolicy(rules: Schemas["PolicyRules"]): Promise<void> {
    this.policy = await answer(api.PUT("/policy", { body: rules }));
  }
}

export const workspace = new Workspace();
