<script lang="ts">
  import { Progress } from "@skeletonlabs/skeleton-svelte";

  /** How far something has got. */
  let { label, percent, width }: { label: string; percent: number | null; width: string } = $props();
</script>

<Progress value={percent} class={width}>
  <Progress.Track class="h-1.5 bg-(--rule)" aria-label={label}
    ><Progress.Range class="h-1.5 bg-(--ink)" /></Progress.Track
  >
</Progress>
