<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { Asked } from "../lib/asked.svelte";
  import Backtest from "./Backtest.svelte";
  import PolicyEffect from "./PolicyEffect.svelte";
  import QuietPeriods from "./QuietPeriods.svelte";
  import { by } from "../analyses/SplitBy.svelte";
  import ThresholdTrial from "./ThresholdTrial.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { tray } from "../audiences/tray.svelte";
  import { Trial } from "./trial.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** Which day counts fit the data: how long quiet periods last, who comes back, and what other counts would change. */
  const TOP = 6;
  const trial = new Trial();
  const policy = $derived(workspace.policy);
  const study = new Asked("thresholds", () => {
    const split = by(address.get("by"));
    return { ...trial.query, ...(split ? { by: split, top: TOP } : { audiences: tray.active }) };
  });
  const found = $derived(study.data?.picture);
</script>

{#if study.data && found && policy}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="finding">{study.data.finding}</p>
  {#each found.warnings.slice(1) as warning (warning)}
    <p class="mt-2 max-w-2xl border-l-4 border-(--alarm) pl-3" role="status">{warning}</p>
  {/each}
  <div class="mt-5 grid gap-x-12 gap-y-4 lg:grid-cols-[26rem_1fr]">
    <ThresholdTrial {trial} study={found} {policy} />
    {#if trial.possible}
      <PolicyEffect
        rules={{ ...policy, active_within: trial.dormantAfter, churned_after: trial.churnedAfter }}
        table={trial.differs}
      />
    {/if}
  </div>
  <QuietPeriods study={found} takeaway={study.data.finding} {trial} />
  {#if trial.possible}
    <Backtest dormantAfter={trial.dormantAfter} churnedAfter={trial.churnedAfter} />
  {/if}
{/if}
{#if study.problem || !study.data}<Waiting of={study} />{/if}
