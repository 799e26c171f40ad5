<script lang="ts">
  import { letter, comparison } from "./comparison.svelte";
  import ComparisonMark from "./ComparisonMark.svelte";

  /** Compares everything by an audience, or no longer. */
  let { id, name }: { id: number; name: string } = $props();

  const position = $derived(comparison.position(id));
</script>

<button
  class="quiet"
  aria-pressed={position >= 0}
  aria-label="{position >= 0 ? `${letter(position)} In comparison` : 'Compare'}: {name}"
  onclick={() => (position >= 0 ? comparison.remove(id) : comparison.add(id, name))}
  >{#if position >= 0}<ComparisonMark {position} /> In comparison{:else}Compare{/if}</button
>
