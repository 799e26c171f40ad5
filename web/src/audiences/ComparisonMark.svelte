<script lang="ts">
  import { letter } from "./comparison.svelte";

  /** The letter and colour of a position in the comparison. */
  let { position, faint = false }: { position: number; faint?: boolean } = $props();
</script>

<span
  class="inline-flex h-5 w-5 shrink-0 items-center justify-center rounded-sm font-sans text-[0.8rem] leading-none font-bold"
  style={faint
    ? "border: 1px solid var(--rule-strong); color: var(--ink-soft)"
    : `background: var(--comparison-${position}); color: var(--comparison-ink)`}>{letter(position)}</span
>
