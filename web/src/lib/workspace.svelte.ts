import { address } from "./address.svelte";
import { answer, api, problemOf, type Problem, type Schemas } from "./api/client";

const POLL = 3000;

/** What every place needs: the workspace, the policy in force, the catalogue and the as-of date. */
class Workspace {
  info = $state.raw<Schemas["Workspace"] | null>(null);
  policies = $state.raw<Schemas["Policy"][]>([]);
  /** Notices nobody has read yet. */
  unread = $state(0);
  catalogue = $state.raw<Schemas["Catalogue"] | null>(null);
  /** The workspace as of the last look, for telling how old the data is. */
  heartbeat = $state.raw<Schemas["Workspace"] | null>(null);
  problem = $state<Problem | null>(null);

  /** The date in the address, or else the last day there is data for. */
  get asOf(): string {
    return address.get("as_of") ?? this.info?.default_as_of ?? "";
  }

  /** Only what had been received by then, or everything where there is no date. */
  get knownOn(): string | undefined {
    return address.get("known_on") ?? undefined;
  }

  /** The policy named in the address, or else the one in force; null while nothing could count as activity. */
  get policy(): Schemas["Policy"] | null {
    const named = Number(address.get("policy"));
    const found = this.policies.find((row) => (named ? row.id === named : row.in_force));
    return found?.activity.length ? found : null;
  }

  /** The dates of the question and its policy, as the API takes them. */
  get dates(): { as_of: string; known_on?: string; policy?: number } {
    const policy = Number(address.get("policy")) || undefined;
    return {
      as_of: this.asOf,
      ...(this.knownOn ? { known_on: this.knownOn } : {}),
      ...(policy ? { policy } : {}),
    };
  }

  /** What every question to an analysis has in common. */
  get asked(): { as_of: string; received_by?: string; rules?: number } {
    const { as_of, known_on, policy } = this.dates;
    return {
      as_of,
      ...(known_on ? { received_by: known_on } : {}),
      ...(policy ? { rules: policy } : {}),
    };
  }

  /** The policy as a lifecycle clause names it; nothing for the one in force. */
  get policyClause(): { policy?: { id: number } } {
    return this.policy?.id && !this.policy.in_force ? { policy: { id: this.policy.id } } : {};
  }

  async refresh(): Promise<void> {
    try {
      // All of it before anything is shown: whoever sees a place can use it.
      const info = await answer(api.GET("/workspace"));
      if (info.ready) {
        [, this.catalogue] = await Promise.all([this.readPolicies(), answer(api.GET("/catalogue"))]);
      }
      this.info = this.heartbeat = info;
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

  /** Reads everything again where there is something new; otherwise only the heartbeat changes, and nothing else reloads. */
  private async look(): Promise<void> {
    try {
      this.heartbeat = await answer(api.GET("/workspace"));
      const news =
        this.heartbeat.generation !== this.info?.generation || this.heartbeat.ready !== this.info?.ready;
      if (news) await this.refresh();
    } catch {
      // the next look tells; what is on screen stays
    }
  }

  async countNotices(): Promise<void> {
    try {
      this.unread = (await answer(api.GET("/notices"))).unread;
    } catch {
      // the next count tells
    }
  }

  /** Reads the policies again, after one has been changed. Before anybody has chosen, there is the first one. */
  async readPolicies(): Promise<void> {
    const kept = (await answer(api.GET("/policies"))).policies;
    this.policies = kept.length ? kept : [await answer(api.GET("/policy"))];
  }
}

export const workspace = new Workspace();
