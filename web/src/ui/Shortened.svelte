<script lang="ts">
  import { shortened } from "../lib/format";

  /** A value or a name, cut where it is long, with all of it as the tooltip. */
  let { text }: { text: string } = $props();

  const short = $derived(shortened(text));
</script>

{#if short === text}{text}{:else}<span title={text}>{short}</span>{/if}
