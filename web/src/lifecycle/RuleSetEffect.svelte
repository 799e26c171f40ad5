<script lang="ts">
  import DataTable from "../analyses/DataTable.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** What rules would make of everybody: people per state now and after, and from which state to which. */
  let { rules, table = true }: { rules: Schemas["LifecycleRules"]; table?: boolean } = $props();

  const effect = new Asked("rules-effect", () => ({
    tried: {
      activity: rules.activity,
      new_for: rules.new_for,
      active_within: rules.active_within,
      churned_after: rules.churned_after,
      population: rules.population ?? null,
      channel: rules.channel ?? null,
    },
  }));
</script>

{#if effect.data && !effect.problem}
  <div data-testid="rule-set-effect" aria-busy={effect.loading}>
    <p class="mt-2">{effect.data.finding}</p>
    {#each effect.data.tables as one (one.key)}
      {#if one.key === "states" || (table && effect.data.picture.changed > 0)}
        <DataTable table={one} asOf={effect.data.as_of} />
      {/if}
    {/each}
  </div>
{:else}
  <Waiting of={effect} />
{/if}
