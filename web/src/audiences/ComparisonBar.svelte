<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { comparison, MOST } from "./comparison.svelte";
  import ComparisonMark from "./ComparisonMark.svelte";

  /** The comparison along the bottom edge: a click on an audience compares by it or not. */
  $effect(() => {
    if (comparison.chosen.length) void comparison.load();
  });
</script>

{#if comparison.chosen.length}
  <aside
    class="sticky bottom-0 z-20 border-t border-(--rule-strong) bg-(--paper-deep)"
    aria-label="Comparison"
    data-testid="comparison"
  >
    <div class="mx-auto flex max-w-[1200px] flex-wrap items-center gap-x-5 gap-y-1 px-6 py-2">
      <span class="soft small">Comparing</span>
      {#each comparison.chosen as row, position (row.id)}
        <span class="inline-flex items-center gap-1">
          <button
            class="inline-flex min-h-6 max-w-56 cursor-pointer items-center gap-2"
            aria-pressed={row.on}
            title={row.on ? "Shown. Click to hide." : "Hidden. Click to show."}
            onclick={() => comparison.toggle(row.id)}
          >
            <ComparisonMark {position} faint={!row.on} />
            <span class="truncate {row.on ? '' : 'soft line-through'}">{comparison.name(row.id)}</span>
          </button>
          <button
            class="soft min-h-6 min-w-6 cursor-pointer px-1"
            aria-label="Remove {comparison.name(row.id)} from the comparison"
            onclick={() => comparison.remove(row.id)}>×</button
          >
        </span>
      {/each}
      {#if comparison.beyond}
        <span class="soft small" role="status"
          >Only the first {MOST} are compared; {comparison.beyond} not shown</span
        >
      {/if}
      <span class="ml-auto flex gap-3">
        {#if comparison.active.length > 1}
          <a href={address.to("/analyses/overlap")}>Overlap</a>
        {/if}
        <a href={address.to("/analyses/breakdown")}>Breakdown</a>
      </span>
    </div>
  </aside>
{/if}
