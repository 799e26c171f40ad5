<script lang="ts">
  import { shown } from "../lib/format";

  /** Names with their values on a line. */
  let { facts }: { facts: Record<string, unknown> } = $props();
</script>

{#each Object.entries(facts) as [name, value] (name)}
  <span class="mr-3 inline-block max-w-full break-words"><span class="soft">{name}</span> {shown(value)}</span
  >
{/each}
