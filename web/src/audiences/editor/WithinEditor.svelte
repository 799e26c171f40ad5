<script lang="ts">
  import type { Within } from "../definition";
  import Whole from "./Whole.svelte";

  /** A length of time in one unit. */
  let { within, change, close }: { within: Within; change: (within: Within) => void; close: () => void } =
    $props();

  const UNITS = ["minutes", "hours", "days"] as const;
  const unit = $derived(UNITS.find((name) => within[name] !== undefined) ?? "days");
</script>

<span class="inline-flex items-center gap-2">
  <Whole
    label="How long"
    max={1_000_000}
    value={within[unit] ?? 7}
    change={(value) => change({ [unit]: value })}
    {close}
  />
  <select
    aria-label="Unit"
    value={unit}
    onchange={(event) => change({ [event.currentTarget.value]: within[unit] ?? 7 })}
  >
    {#each UNITS as name (name)}<option>{name}</option>{/each}
  </select>
</span>
