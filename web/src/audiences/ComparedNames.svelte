<script lang="ts">
  import { comparison } from "./comparison.svelte";
  import ComparisonMark from "./ComparisonMark.svelte";

  /** The audiences compared by, with their letters, where they stand in a sentence. */
</script>

{#each comparison.active as id, index (id)}{index ? ", " : ""}<span class="inline-flex items-baseline gap-1"
    ><ComparisonMark position={comparison.position(id)} /> {comparison.name(id)}</span
  >{/each}
