<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, number, percent, plural } from "../lib/format";

  /** How many people fit, of how many, and the way to all of them. */
  let {
    preview,
    stale,
    people,
  }: {
    /** Nothing where it is not known of what is written now. */
    preview: Schemas["Preview"] | null;
    stale: boolean;
    /** How the list of people is asked for them. */
    people: Record<string, string>;
  } = $props();
</script>

<div class="mt-4 flex flex-wrap items-baseline gap-x-4">
  <p class="says">
    <span class="text-[2rem] font-semibold tabular-nums" data-testid="size" data-stale={stale}>
      {preview ? number(preview.size) : "…"}
    </span>
    {preview?.size === 1 ? "person" : "people"}
  </p>
  <p class="sr-only" role="status">{preview && !stale ? plural(preview.size, "person", "people") : ""}</p>
  {#if preview}
    <p class="soft">
      {percent(preview.share)} of {number(preview.base)} people known on {day(
        preview.as_of,
      )}{#if preview.received_by}, using data received by {day(preview.received_by)}{/if}
    </p>
    {#if preview.size && (people.audience || preview.size < preview.base)}
      <p><a href={address.to("/people", people)}>View people</a></p>
    {/if}
  {/if}
</div>
