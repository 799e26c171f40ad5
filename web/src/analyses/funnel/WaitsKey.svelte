<script lang="ts">
  import { duration } from "../../lib/format";
  import type { barsOf } from "./waits";

  /** Whose waiting times stand in the picture, and how long they are. */
  let { series }: { series: ReturnType<typeof barsOf>["series"] } = $props();
</script>

<ul>
  {#each series as { name, colour, wait }, index (index)}
    <li class="border-b border-(--rule) py-1.5">
      <div class="flex items-baseline gap-2">
        <span class="inline-block h-3 w-3 shrink-0" style="background: {colour}" aria-hidden="true"></span>
        {name}
      </div>
      <p class="small pl-5">
        {#if wait}<b>{duration(wait.median)}</b> in the median, half of them {duration(wait.lower)} to
          {duration(wait.upper)}{:else}nobody{/if}
      </p>
    </li>
  {/each}
</ul>
