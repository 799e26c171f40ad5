<script lang="ts">
  import { way } from "../charts/plot";

  /** What an answer looks like, too small to be read; what it says stands beside it. */
  let { kind, values }: { kind: "line" | "bars"; values: number[] } = $props();

  const WIDTH = 180;
  const HEIGHT = 34;
  const most = $derived(Math.max(1, ...values));
  const step = $derived(WIDTH / Math.max(1, kind === "line" ? values.length - 1 : values.length));
  const up = (value: number) => HEIGHT - 2 - (HEIGHT - 4) * (value / most);
</script>

<svg viewBox="0 0 {WIDTH} {HEIGHT}" width={WIDTH} height={HEIGHT} aria-hidden="true" class="mt-1 block">
  {#if kind === "line"}
    <path
      d={way(values.map((value, index) => [index * step, up(value)]))}
      fill="none"
      stroke="var(--ink-soft)"
      stroke-width="1.5"
    />
  {:else}
    {#each values as value, index (index)}
      <rect
        x={index * step}
        y={up(value)}
        width={Math.max(1, step - 3)}
        height={HEIGHT - 1 - up(value)}
        fill="var(--ink-soft)"
      />
    {/each}
  {/if}
</svg>
