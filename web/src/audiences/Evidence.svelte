<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { number, percent } from "../lib/format";
  import { CHANNELS } from "../lib/channels";
  import StateMix from "../lifecycle/StateMix.svelte";
  import Trend from "./Trend.svelte";

  /** What is known of a definition's people beside their number. */
  let { preview, id }: { preview: Schemas["Preview"]; id: number | null } = $props();

  const twins = $derived(preview.same_as.filter((row) => row.id !== id));
  const emptied = $derived(
    preview.emptied_by === null || preview.base === 0 ? null : preview.lines[preview.emptied_by],
  );
</script>

<StateMix states={preview.states} />
<p class="flex flex-wrap gap-x-5" data-testid="reachable">
  <span class="soft">can be reached by</span>
  {#each CHANNELS as [channel, name] (channel)}
    <span class="whitespace-nowrap"
      >{name}
      {number(preview.reachable[channel] ?? 0)}
      <span class="soft small"
        >{percent(preview.size ? (preview.reachable[channel] ?? 0) / preview.size : 0)}</span
      ></span
    >
  {/each}
</p>
<Trend definition={preview.definition} />
{#if emptied}
  <p role="status">
    Nobody is left after condition {preview.emptied_by! + 1}{preview.emptied_by === 0
      ? ""
      : ": it contradicts what stands before it, or leaves out the last of them"}.
  </p>
{/if}
{#if preview.undecided}
  <p class="soft">
    {number(preview.undecided)} more are undecided: the time to wait has not passed for them.
  </p>
{/if}
{#if twins.length}
  <p class="soft">
    Says the same as
    {#each twins as twin (twin.id)}<a class="mr-2" href={address.to(`/audiences/${twin.id}`)}>{twin.name}</a
      >{/each}
  </p>
{/if}
