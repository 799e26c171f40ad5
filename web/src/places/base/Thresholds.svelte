<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api } from "../../lib/api/client";
  import Backtest from "../../lib/components/Backtest.svelte";
  import PolicyEffect from "../../lib/components/PolicyEffect.svelte";
  import QuietPeriods from "../../lib/components/QuietPeriods.svelte";
  import { by } from "../../lib/components/SplitBy.svelte";
  import ThresholdTrial from "../../lib/components/ThresholdTrial.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { Resource } from "../../lib/resource.svelte";
  import { tray } from "../../lib/tray.svelte";
  import { Trial } from "../../lib/trial.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** Which day counts fit the data: how long quiet periods last, who comes back, and what other counts would change. */
  const TOP = 6;
  const trial = new Trial();
  const policy = $derived(workspace.policy);
  const study = new Resource((signal) => {
    void workspace.policies;
    const split = by(address.get("by") ?? "");
    const query = {
      ...workspace.dates,
      ...trial.query,
      ...(split ? { by: JSON.stringify(split), top: TOP } : { tray: tray.query }),
    };
    return answer(api.GET("/base/thresholds", { params: { query }, signal }));
  });
</script>

{#if study.data && policy}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="takeaway">{study.data.takeaway}</p>
  {#each study.data.warnings.slice(1) as warning (warning)}
    <p class="mt-2 max-w-2xl border-l-4 border-(--alarm) pl-3" role="status">{warning}</p>
  {/each}
  <div class="mt-5 grid gap-x-12 gap-y-4 lg:grid-cols-[26rem_1fr]">
    <ThresholdTrial {trial} study={study.data} {policy} />
    {#if trial.possible}
      <PolicyEffect
        rules={{ ...policy, active_within: trial.dormantAfter, churned_after: trial.churnedAfter }}
        table={trial.differs}
      />
    {/if}
  </div>
  <QuietPeriods study={study.data} {trial} />
  {#if trial.possible}
    <Backtest dormantAfter={trial.dormantAfter} churnedAfter={trial.churnedAfter} />
  {/if}
{/if}
{#if study.problem || !study.data}<Waiting problem={study.problem} retry={() => study.reload()} />{/if}
