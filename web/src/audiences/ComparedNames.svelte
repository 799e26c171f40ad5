<script lang="ts">
  import { comparison } from "./comparison.svelte";
  import ComparedName from "./ComparedName.svelte";

  /** The audiences compared by, where they stand in a sentence. */
</script>

{#each comparison.active as id, index (id)}{index ? ", " : ""}<ComparedName {id} />{/each}
