<script lang="ts">
  import { ROW, type Above } from "./above";

  /** Notes in a picture: a line down to its foot, and the words above it. */
  let { notes, top, bottom }: { notes: Above[]; top: number; bottom: number } = $props();
</script>

{#each notes as { place, at, text, short, turned, row } (place)}
  {@const base = top - 4 - ROW * row}
  <line x1={at} x2={at} y1={base - 8} y2={bottom} stroke="var(--accent)" stroke-dasharray="2 3" />
  <text
    x={turned ? at - 4 : at + 4}
    y={base}
    text-anchor={turned ? "end" : "start"}
    class="fill-(--accent) text-[12px]"
    data-testid="noted"><title>{text}</title>{short}</text
  >
{/each}
