<script lang="ts">
  import { number } from "../lib/format";

  /** A few upright bars with their numbers written on them. */
  let {
    bars,
    label,
    format = number,
    height = 150,
    width = 420,
  }: {
    bars: { name: string; value: number | null; href?: string | null; says?: string }[];
    label: string;
    format?: (value: number) => string;
    height?: number;
    width?: number;
  } = $props();

  const most = $derived(Math.max(1e-9, ...bars.map((bar) => bar.value ?? 0)));
  const step = $derived(width / Math.max(1, bars.length));
  const written = $derived(step >= 34);
</script>

<svg
  viewBox="0 0 {width} {height}"
  {width}
  {height}
  role={bars.some((bar) => bar.href) ? "group" : "img"}
  aria-label={label}
  class="mt-2 block max-w-full"
>
  {#each bars as bar, index (bar.name)}
    {@const size = ((bar.value ?? 0) / most) * (height - 44)}
    {#snippet block()}
      <rect
        x={index * step + step * 0.12}
        width={step * 0.76}
        y={height - 22 - size}
        height={Math.max(size, 0.5)}
        fill="var(--state-active)"
      />
    {/snippet}
    {#if bar.href && bar.value}
      <a href={bar.href} aria-label={bar.says}>
        <rect x={index * step} width={step} y="0" height={height - 22} fill="transparent" />
        {@render block()}
      </a>
    {:else}{@render block()}{/if}
    {#if written && bar.value !== null}
      <text
        x={(index + 0.5) * step}
        y={height - 27 - size}
        text-anchor="middle"
        class="fill-(--ink) text-[12px]">{format(bar.value)}</text
      >
    {/if}
    {#if written || index % 3 === 0}
      <text x={(index + 0.5) * step} y={height - 6} text-anchor="middle" class="fill-(--ink-soft) text-[12px]"
        >{bar.name}</text
      >
    {/if}
  {/each}
</svg>
