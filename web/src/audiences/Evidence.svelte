<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { number, percent } from "../lib/format";
  import { kindName } from "../lib/identifiers";
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
  <span class="soft">Reachable by</span>
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
    No one matches after condition {preview.emptied_by! + 1}{preview.emptied_by === 0
      ? ""
      : ": it contradicts the conditions above, or excludes the last people"}.
  </p>
{/if}
{#each preview.lists.filter(({ missing }) => missing) as list, index (index)}
  <details class="max-w-[46rem]">
    <summary class="cursor-pointer">
      {number(list.missing)} of the {number(list.identifiers)} on the list {list.missing === 1 ? "is" : "are"} not
      found ({kindName(list.by)})
    </summary>
    <p class="small mt-1 max-h-40 overflow-y-auto break-all">
      {list.named.join(", ")}{list.missing > list.named.length
        ? ` and ${number(list.missing - list.named.length)} more`
        : ""}
    </p>
  </details>
{/each}
{#if preview.undecided}
  <p class="soft">
    {number(preview.undecided)} more are undecided: their waiting time has not ended.
  </p>
{/if}
{#if twins.length}
  <p class="soft">
    Same definition as
    {#each twins as twin (twin.id)}<a class="mr-2" href={address.to(`/audiences/${twin.id}`)}>{twin.name}</a
      >{/each}
  </p>
{/if}
