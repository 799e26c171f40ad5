<script lang="ts">
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import SplitBy, { by } from "../analyses/SplitBy.svelte";
  import { comparison } from "../audiences/comparison.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { fine } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Backtest from "./Backtest.svelte";
  import RuleSetEffect from "./RuleSetEffect.svelte";
  import InactivityGaps from "./InactivityGaps.svelte";
  import ThresholdTrial from "./ThresholdTrial.svelte";
  import { Trial } from "./trial.svelte";

  /** Which day counts fit the data: how long inactivity gaps last, who is reactivated, and what other counts would change. */
  const TOP = 6;
  const trial = new Trial();
  const ruleSet = $derived(workspace.ruleSet);
  const split = $derived(by(address.get("by")));
  const thresholds = new Asked("thresholds", () => ({
    ...trial.query,
    ...(split ? { by: split, top: TOP } : { audiences: comparison.active }),
  }));

  function reactivation(found: Schemas["ThresholdsPicture"]) {
    const most = trial.furthest(found);
    return found.reactivation.filter(
      (row): row is [number, ...(number | null)[]] => row[0] !== null && row[0]! <= most,
    );
  }

  function column(rows: (number | null)[][], at: number): (number | null)[] {
    return rows.map((row) => row[at] ?? null);
  }
</script>

<AnalysisPage
  asked={thresholds}
  title="Length of inactivity gaps"
  term="still_inactive"
  name="inactivity-gaps"
  tables={{ groups: {}, season: {}, lapses: {} }}
>
  {#snippet question()}
    After how many inactive days are at most <InputPhrase
      label="Dormant: maximum reactivation rate"
      value={trial.dormantShare}
      most={99}
      change={(value) => trial.set("dormant_share", value)}
    />% (dormant) and <InputPhrase
      label="Churned: maximum reactivation rate"
      value={trial.share}
      most={99}
      change={(value) => trial.set("share", value)}
    />% (churned) reactivated within <InputPhrase
      label="Reactivated within (days)"
      value={trial.horizon}
      most={3650}
      change={(value) => trial.set("horizon", value)}
    /> days? Split by <SplitBy
      phrase
      value={split ? (address.get("by") ?? "") : ""}
      none={comparison.active.length ? "the comparison" : "nothing"}
      choose={(value) => put({ by: value || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    <div class="grid gap-x-8 gap-y-4 lg:grid-cols-[1fr_19rem]">
      <div class="min-w-0"><InactivityGaps thresholds={answer.picture} {trial} /></div>
      {#if ruleSet}<ThresholdTrial {trial} thresholds={answer.picture} {ruleSet} />{/if}
    </div>
  {/snippet}
  {#snippet more(answer)}
    {@const rows = reactivation(answer.picture)}
    <Picture
      title="Reactivation probability within {trial.horizon} days"
      term="reactivation"
      name="reactivation"
      finding={answer.finding}
    >
      <LinePlot
        label="Reactivation probability by days inactive"
        lines={[
          {
            name: "probability",
            colour: "var(--state-active)",
            values: column(rows, 1),
            low: column(rows, 2),
            high: column(rows, 3),
          },
        ]}
        xs={rows.map((row) => row[0])}
        marks={trial.marks(rows.at(-1)?.[0] ?? 0)}
        verticals={trial.verticals}
        reference={{ at: trial.share / 100, text: `${trial.share}%` }}
        format={fine}
        height={190}
        room={120}
      />
    </Picture>
    {#if trial.possible && ruleSet}
      <h2 class="mt-8">Effect on current states</h2>
      <RuleSetEffect
        rules={{ ...ruleSet, active_within: trial.dormantAfter, churned_after: trial.churnedAfter }}
        table={trial.differs}
      />
      <Backtest dormantAfter={trial.dormantAfter} churnedAfter={trial.churnedAfter} />
    {/if}
  {/snippet}
</AnalysisPage>
