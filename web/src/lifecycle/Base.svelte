<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Activity from "./Activity.svelte";
  import Notices from "./Notices.svelte";
  import Policies from "./Policies.svelte";
  import Revisions from "./Revisions.svelte";
  import States from "./States.svelte";
  import Thresholds from "./Thresholds.svelte";

  let { part }: { part: string } = $props();

  const PARTS = [
    ["", "States and movement"],
    ["activity", "Activity"],
    ["thresholds", "Thresholds"],
    ["revisions", "Revisions"],
    ["policies", "Policies"],
    ["notices", "Notices"],
  ] as const;
</script>

<h1 class="sr-only">Base</h1>
<nav class="flex flex-wrap gap-x-5 gap-y-1" aria-label="Base">
  {#each PARTS as [key, name] (key)}
    <a
      href={address.to(key ? `/base/${key}` : "/")}
      aria-current={part === key ? "page" : undefined}
      class="no-underline aria-[current=page]:font-semibold aria-[current=page]:underline">{name}</a
    >
  {/each}
</nav>
{#if part === "activity"}<Activity />
{:else if part === "thresholds"}<Thresholds />
{:else if part === "revisions"}<Revisions />
{:else if part === "policies"}<Policies />
{:else if part === "notices"}<Notices />
{:else}<States />{/if}
