<script lang="ts">
  import { comparison } from "./comparison.svelte";
  import ComparisonMark from "./ComparisonMark.svelte";

  /** An audience compared by, with its letter, where it stands in a sentence. */
  let { id }: { id: number } = $props();
</script>

<ComparisonMark position={comparison.position(id)} />&nbsp;<bdi class="wrap-anywhere"
  >{comparison.name(id)}</bdi
>
