<script lang="ts">
  import { duration } from "../../lib/format";
  import KeyLine from "../KeyLine.svelte";
  import type { barsOf } from "./waits";

  /** Whose waiting times stand in the picture, and how long they are. */
  let { series }: { series: ReturnType<typeof barsOf>["series"] } = $props();
</script>

<ul>
  {#each series as { name, colour, wait }, index (index)}
    <KeyLine {name} {colour}>
      <p class="small pl-5">
        {#if wait}Median <b>{duration(wait.median)}</b>, middle 50%: {duration(wait.lower)} to
          {duration(wait.upper)}{:else}no one{/if}
      </p>
    </KeyLine>
  {/each}
</ul>
