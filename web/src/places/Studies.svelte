<script lang="ts">
  import { address } from "../lib/address.svelte";
  import BeforeAfter from "./studies/BeforeAfter.svelte";
  import Breakdown from "./studies/Breakdown.svelte";
  import Overlap from "./studies/Overlap.svelte";

  let { study }: { study: string } = $props();

  const STUDIES = [
    ["overlap", "Overlap"],
    ["breakdown", "Breakdown"],
    ["before-after", "Before and after"],
  ] as const;
</script>

<div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
  <h1>Studies</h1>
  <nav class="flex gap-4" aria-label="Studies">
    {#each STUDIES as [key, name] (key)}
      <a
        href={address.to(`/studies/${key}`)}
        aria-current={study === key ? "page" : undefined}
        class="no-underline aria-[current=page]:font-semibold aria-[current=page]:underline">{name}</a
      >
    {/each}
  </nav>
</div>
{#if study === "breakdown"}<Breakdown />{:else if study === "before-after"}<BeforeAfter />{:else}<Overlap
  />{/if}
