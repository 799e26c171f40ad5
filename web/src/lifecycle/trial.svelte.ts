import { address } from "../lib/address.svelte";
import type { Schemas } from "../lib/api/client";
import { workspace } from "../lib/workspace.svelte";

const MONTH = 30;
type Name = "dormant" | "churned" | "horizon" | "share" | "dormant_share";

function whole(name: Name, otherwise: number, least: number, most: number): number {
  const value = Number(address.get(name));
  return Number.isInteger(value) && value >= least && value <= most ? value : otherwise;
}

/** Day counts that are tried, and what is asked of them, as they stand in the address; those of the rule set where none do. */
export class Trial {
  get dormantAfter(): number {
    return whole("dormant", workspace.ruleSet?.active_within ?? 30, 1, 3650);
  }

  get churnedAfter(): number {
    return whole("churned", workspace.ruleSet?.churned_after ?? 90, 2, 3650);
  }

  /** Days within which somebody is reactivated or not. */
  get horizon(): number {
    return whole("horizon", 90, 1, 3650);
  }

  /** Of those called churned, how many may be reactivated, per cent. */
  get share(): number {
    return whole("share", 10, 1, 99);
  }

  /** Of those called dormant, how many may be reactivated, per cent. */
  get dormantShare(): number {
    return whole("dormant_share", 50, 1, 99);
  }

  get possible(): boolean {
    return this.dormantAfter < this.churnedAfter;
  }

  /** Whether others than those of the rule set are tried. */
  get differs(): boolean {
    const ruleSet = workspace.ruleSet;
    return this.dormantAfter !== ruleSet?.active_within || this.churnedAfter !== ruleSet?.churned_after;
  }

  /** How many days are drawn. */
  furthest(thresholds: Schemas["ThresholdsPicture"]): number {
    const asked = Math.max(this.churnedAfter * 2, this.churnedAfter + this.horizon, 60);
    return Math.min(thresholds.longest ?? 1, asked);
  }

  /** Days written below a picture of so many. */
  marks(days: number): { at: number; text: string }[] {
    const every = MONTH * Math.max(1, Math.ceil(days / MONTH / 12));
    const count = Math.floor(days / every) + 1;
    return Array.from({ length: count }, (_, index) => ({
      at: index * every,
      text: index ? `${index * every} days` : "0",
    }));
  }

  /** The two day counts, as lines across a picture. */
  get verticals(): { at: number; text: string }[] {
    return [
      { at: this.dormantAfter, text: `dormant after ${this.dormantAfter}` },
      { at: this.churnedAfter, text: `churned after ${this.churnedAfter}` },
    ];
  }

  /** As the API takes it; day counts that make no sense are not asked about. */
  get query() {
    return {
      horizon: this.horizon,
      share: this.share / 100,
      dormant_share: this.dormantShare / 100,
      ...(this.possible ? { active_within: this.dormantAfter, churned_after: this.churnedAfter } : {}),
    };
  }

  set(name: Name, value: string): void {
    address.go(address.with({ [name]: value }), { replace: true });
  }
}
