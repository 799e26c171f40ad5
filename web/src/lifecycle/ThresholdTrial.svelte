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
      label: "Dormant from",
      days: trial.dormantAfter,
      least: 1,
      most: 180,
      back: thresholds.at_dormant,
      allowed: trial.dormantShare,
      suggested: thresholds.suggested.active_within,
    },
    {
      key: "churned" as const,
      label: "Churned from",
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
          How many are reactivated within {trial.horizon} days is not known: the history is too short.
        {:else}
          {percent(back)} of those who reach it are reactivated within {trial.horizon} days.
        {/if}
        {#if suggested !== null}
          <button
            class="cursor-pointer underline underline-offset-3"
            type="button"
            onclick={() => trial.set(key, String(suggested))}>{suggested} days</button
          >
          would bring it to {allowed}% or less.
        {:else}No count keeps it at {allowed}% in this history.{/if}
      </span>
    </label>
  {/each}
  {#if !trial.possible}<p role="alert" class="border-l-4 border-(--alarm) pl-3">
      Churned must begin later than dormant, or nobody could be dormant.
    </p>{/if}
  {#if trial.differs}
    <div class="flex flex-wrap gap-2 *:whitespace-nowrap">
      <a
        class="act"
        href={address.to("/lifecycle/rules", {
          edit: ruleSet.id === null ? "new" : String(ruleSet.id),
          dormant: String(trial.dormantAfter),
          churned: String(trial.churnedAfter),
        })}>Take these over…</a
      >
      <a class="quiet" href={address.with({ dormant: null, churned: null })}>Reset</a>
    </div>
  {/if}
</form>
