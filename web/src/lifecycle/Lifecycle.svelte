<script lang="ts">
  import SavedBar from "../analyses/SavedBar.svelte";
  import { address } from "../lib/address.svelte";
  import Place from "../shell/Place.svelte";
  import { LOAD } from "./load";

  let { part }: { part: string } = $props();

  const PARTS = [
    ["", "States and movement"],
    ["activity", "Activity"],
    ["thresholds", "Thresholds"],
    ["revisions", "Revisions"],
    ["rules", "Rules"],
    ["alerts", "Alerts"],
  ] as const;
  /** Which analysis the question of a part is kept as. */
  const KEPT: Record<string, string> = {
    "": "states",
    activity: "activity",
    thresholds: "thresholds",
    revisions: "revisions",
  };
</script>

<h1 class="sr-only">Lifecycle</h1>
<div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
  <nav class="flex flex-wrap gap-x-5 gap-y-1" aria-label="Lifecycle">
    {#each PARTS as [key, name] (key)}
      <a
        href={address.to(key ? `/lifecycle/${key}` : "/")}
        aria-current={part === key ? "page" : undefined}
        class="no-underline aria-[current=page]:font-semibold aria-[current=page]:underline">{name}</a
      >
    {/each}
  </nav>
  {#if KEPT[part]}{#key part}<SavedBar analysis={KEPT[part]} />{/key}{/if}
</div>
{#key part}<Place load={LOAD[part] ?? LOAD[""]!} given={{}} />{/key}
