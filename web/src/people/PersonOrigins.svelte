<script lang="ts">
  import { attributeName, eventName } from "../lib/names";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, moment, number, shown } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How one person came to be one: who the parts were before, and devices that came or went. */
  let { about }: { about: Schemas["Person"] } = $props();

  const zone = $derived(workspace.info!.time_zone);

  function identifiers(portrait: Schemas["Portrait"]): string {
    return portrait.identifiers.map((entry) => `${entry.kind}:${entry.value}`).join(", ") || "no identifier";
  }
</script>

<h2 class="mt-6">Merge history</h2>
{#each about.merges as merge, index (index)}
  <div class="mt-2 border-l-2 border-(--rule-strong) pl-3" data-testid="merge">
    <p>
      {day(merge.link.occurred_at)}: {merge.link.source} linked
      <b class="wrap-anywhere">{merge.link.one}</b>
      and
      <b class="wrap-anywhere">{merge.link.other}</b>.
      <span class="soft small">Merged {moment(merge.at, zone)}.</span>
    </p>
    <details class="mt-1">
      <summary class="soft cursor-pointer">Profiles before the merge</summary>
      {#each [merge.from, merge.into] as portrait (portrait.profile)}
        <div class="mt-2">
          <p class="font-semibold break-all">{identifiers(portrait)}</p>
          {#each portrait.events as event (event.type)}
            <p class="small">
              {number(event.count)} × {eventName(event.type)}, {day(event.first)} to {day(event.last)}
            </p>
          {:else}<p class="soft small">no events</p>{/each}
          {#each Object.entries(portrait.attributes) as [name, value] (name)}
            <span class="small mr-3 inline-block"
              ><span class="soft" title={name}>{attributeName(name)}</span> {shown(value)}</span
            >
          {/each}
        </div>
      {/each}
    </details>
  </div>
{/each}
{#each about.moves as move, index (index)}
  <p class="mt-2 border-l-2 border-(--rule-strong) pl-3" data-testid="move">
    {moment(move.at, zone)}: device <b class="wrap-anywhere">{move.identifier}</b> reassigned
    {move.direction === "came" ? "from" : "to"}
    <a href={address.to(`/people/${move.other}`)}>another customer</a>; earlier events stay with
    {move.direction === "came" ? "that customer" : "this person"}.
  </p>
{/each}
