import { address } from "./address.svelte";
import { answer, api, problemOf, type Problem, type Schemas } from "./api/client";

/** What every place needs: the workspace, the policy in force, the catalogue and the as-of date. */
class Workspace {
  info = $state.raw<Schemas["Workspace"] | null>(null);
  policy = $state.raw<Schemas["Policy"] | null>(null);
  catalogue = $state.raw<Schemas["Catalogue"] | null>(null);
  problem = $state<Problem | null>(null);

  /** The date in the address, or else the last day there is data for. */
  get asOf(): string {
    return address.get("as_of") ?? this.info?.default_as_of ?? "";
  }

  async refresh(): Promise<void> {
    try {
      this.info = await answer(api.GET("/workspace"));
      if (this.info.ready) {
        this.policy = await answer(api.GET("/policy"));
        this.catalogue = await answer(api.GET("/catalogue"));
      }
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  async changePolicy(rules: Schemas["PolicyRules"]): Promise<void> {
    this.policy = await answer(api.PUT("/policy", { body: rules }));
  }
}

export const workspace = new Workspace();
