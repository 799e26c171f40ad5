<script lang="ts">
  import { number } from "../lib/format";

  /** Events per day as small strokes, the newest day last. */
  let { counts }: { counts: number[] } = $props();

  const HEIGHT = 20;
  const STEP = 4;
  const most = $derived(Math.max(1, ...counts));
</script>

<svg
  width={counts.length * STEP}
  height={HEIGHT}
  class="inline-block align-middle"
  role="img"
  aria-label="Events per day, {number(counts.at(-1) ?? 0)} on the last, {number(most)} at most"
>
  <line x1="0" x2={counts.length * STEP} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke="var(--rule-strong)" />
  {#each counts as count, index (index)}
    {#if count}
      <line
        x1={index * STEP + 1.5}
        x2={index * STEP + 1.5}
        y1={HEIGHT}
        y2={HEIGHT - Math.max(2, (HEIGHT * count) / most)}
        stroke="var(--ink)"
        stroke-width="2"
      />
    {/if}
  {/each}
</svg>
