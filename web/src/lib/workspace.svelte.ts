import { address } from "./address.svelte";
import { connection } from "./connection.svelte";
import { answer, api, problemOf, type Problem, type Schemas } from "./api/client";

const POLL = 3000;

/** What every place needs: the workspace, the default rule set, the catalogue and the as-of date. */
class Workspace {
  info = $state.raw<Schemas["Workspace"] | null>(null);
  ruleSets = $state.raw<Schemas["RuleSet"][]>([]);
  /** Alerts nobody has read yet. */
  unread = $state(0);
  private question = 0;
  catalogue = $state.raw<Schemas["Catalogue"] | null>(null);
  /** The workspace as of the last look, for telling how old the data is. */
  heartbeat = $state.raw<Schemas["Workspace"] | null>(null);
  problem = $state<Problem | null>(null);
  /** The date in the address, or else the last day there is data for. */
  get asOf(): string {
    return address.get("as_of") ?? this.info?.default_as_of ?? "";
  }

  /** Only what had been received by then, or everything where there is no date. */
  get receivedBy(): string | undefined {
    return address.get("received_by") ?? undefined;
  }

  /** The rule set named in the address, or else the default one; null while nothing could count as activity. */
  get ruleSet(): Schemas["RuleSet"] | null {
    const named = Number(address.get("rules"));
    const found = this.ruleSets.find((row) => (named ? row.id === named : row.default));
    return found?.activity.length ? found : null;
  }

  /** The dates of the question and its rule set, as the API takes them. */
  get dates(): { as_of: string; received_by?: string; rule_set?: number } {
    const ruleSet = Number(address.get("rules")) || undefined;
    return {
      as_of: this.asOf,
      ...(this.receivedBy ? { received_by: this.receivedBy } : {}),
      ...(ruleSet ? { rule_set: ruleSet } : {}),
    };
  }

  /** What every question to an analysis has in common. */
  get asked(): { as_of: string; received_by?: string; rules?: number } {
    const { as_of, received_by, rule_set } = this.dates;
    return {
      as_of,
      ...(received_by ? { received_by: received_by } : {}),
      ...(rule_set ? { rule_set } : {}),
    };
  }

  /** The rule set as a lifecycle condition names it; nothing for the default one. */
  get ruleSetCondition(): { rule_set?: { id: number } } {
    return this.ruleSet?.id && !this.ruleSet.default ? { rule_set: { id: this.ruleSet.id } } : {};
  }

  async refresh(): Promise<void> {
    try {
      // All of it before anything is shown: whoever sees a place can use it.
      const info = await answer(api.GET("/workspace"));
      if (info.ready) {
        [, this.catalogue] = await Promise.all([this.readRuleSets(), answer(api.GET("/catalogue"))]);
      }
      this.info = this.heartbeat = info;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  /** Looks every few seconds whether there is anything new. */
  keepUp(): () => void {
    const timer = setInterval(() => {
      if (!document.hidden) void this.look();
    }, POLL);
    return () => clearInterval(timer);
  }

  /** Reads everything again where there is something new; otherwise only the heartbeat changes, and nothing else reloads. */
  private async look(): Promise<void> {
    try {
      this.heartbeat = await answer(api.GET("/workspace"));
      connection.found();
      const news =
        this.heartbeat.generation !== this.info?.generation || this.heartbeat.ready !== this.info?.ready;
      if (news) await this.refresh();
    } catch (error) {
      // The next look tells whether it is back; what is on screen stays.
      if (problemOf(error).status === 0) connection.lost();
    }
  }

  /** The newest question wins: an earlier one may be answered later. */
  async countAlerts(): Promise<void> {
    const question = (this.question += 1);
    try {
      const { unread } = await answer(api.GET("/alerts"));
      if (question === this.question) this.unread = unread;
    } catch {
      // the next count tells
    }
  }

  /** Reads the rule sets again, after one has been changed. Before anybody has chosen, there is the first one. */
  async readRuleSets(): Promise<void> {
    const kept = (await answer(api.GET("/rule-sets"))).rule_sets;
    this.ruleSets = kept.length ? kept : [await answer(api.GET("/rule-set"))];
  }
}

export const workspace = new Workspace();
