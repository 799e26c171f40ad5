<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { range, RANGES, STEPS } from "../lib/range.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** Which days are looked at, and in which steps. */
  let { behind = false }: { behind?: boolean } = $props();

  const BEHIND = [
    ["", "nothing"],
    ["previous", "the time before"],
    ["year", "a year before"],
  ] as const;
</script>

<div class="flex flex-wrap items-center gap-x-5 gap-y-2">
  <div class="flex flex-wrap gap-2" role="group" aria-label="Range">
    {#each RANGES as [value, name] (value)}
      <a
        class="quiet min-h-0! py-0.5! text-[0.9rem]"
        aria-current={!address.get("from") && range.name === value ? "true" : undefined}
        href={address.with({ range: value === "365" ? null : value, from: null })}>{name}</a
      >
    {/each}
  </div>
  <label class="small flex items-center gap-2">
    from
    <input
      type="date"
      value={range.from}
      max={workspace.asOf}
      onchange={(event) =>
        event.currentTarget.value && address.go(address.with({ from: event.currentTarget.value }))}
    />
  </label>
  <div class="flex gap-2" role="group" aria-label="Steps">
    {#each STEPS as step (step)}
      <a
        class="quiet min-h-0! py-0.5! text-[0.9rem]"
        aria-current={range.step === step ? "true" : undefined}
        href={address.with({ step: step === "week" ? null : step })}>by {step}</a
      >
    {/each}
  </div>
  {#if behind}
    <label class="small flex items-center gap-2">
      behind it
      <select
        value={address.get("behind") ?? ""}
        onchange={(event) => address.go(address.with({ behind: event.currentTarget.value || null }))}
      >
        {#each BEHIND as [value, name] (value)}<option {value}>{name}</option>{/each}
      </select>
    </label>
  {/if}
</div>
