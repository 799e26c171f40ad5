<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { number, percent } from "../lib/format";
  import type { Trial } from "./trial.svelte";

  /** Sliders for the two day counts, what each means for reactivation, and which would keep that under the chosen share. */
  let {
    trial,
    thresholds,
    ruleSet,
  }: { trial: Trial; thresholds: Schemas["ThresholdsPicture"]; ruleSet: Schemas["RuleSet"] } = $props();

  const counts = $derived([
    {
      key: "dormant" as const,
      label: "Dormant after",
      days: trial.dormantAfter,
      least: 1,
      most: 180,
      back: thresholds.at_dormant,
      allowed: trial.dormantShare,
      suggested: thresholds.suggested.active_within,
    },
    {
      key: "churned" as const,
      label: "Churned after",
      days: trial.churnedAfter,
      least: 2,
      most: 365,
      back: thresholds.at_churned,
      allowed: trial.share,
      suggested: thresholds.suggested.churned_after,
    },
  ]);
</script>

<form class="flex flex-col gap-3" onsubmit={(event) => event.preventDefault()}>
  {#each counts as { key, label, days, least, most, back, allowed, suggested } (key)}
    <label class="field">
      <span class="flex justify-between"
        ><span>{label}</span><strong>{number(days)} inactive days</strong></span
      >
      <input
        type="range"
        min={least}
        max={Math.max(most, days)}
        value={days}
        aria-valuetext="{days} inactive days"
        oninput={(event) => trial.set(key, event.currentTarget.value)}
      />
      <span class="soft small">
        {#if back === null}
          Not enough history to estimate reactivation within {trial.horizon} days.
        {:else}
          {percent(back)} of people who reach it are reactivated within {trial.horizon} days.
        {/if}
        {#if suggested !== null}
          <button
            class="cursor-pointer underline underline-offset-3"
            type="button"
            onclick={() => trial.set(key, String(suggested))}>{suggested} days</button
          >
          would bring it to {allowed}% or less.
        {:else}No threshold brings it to {allowed}% or less in this data.{/if}
      </span>
    </label>
  {/each}
  {#if !trial.possible}<p role="alert" class="border-l-4 border-(--alarm) pl-3">
      Churned must start later than dormant.
    </p>{/if}
  {#if trial.differs}
    <div class="flex flex-wrap gap-2 *:whitespace-nowrap">
      <a
        class="act"
        href={address.to("/lifecycle/rules", {
          edit: ruleSet.id === null ? "new" : String(ruleSet.id),
          dormant: String(trial.dormantAfter),
          churned: String(trial.churnedAfter),
        })}>Apply to rules…</a
      >
      <a class="quiet" href={address.with({ dormant: null, churned: null })}>Reset</a>
    </div>
  {/if}
</form>
