<script lang="ts" module>
  export type RowBar = {
    name: string;
    /** Null where there is nothing to tell. */
    value: number | null;
    /** The value as it is written behind the bar. */
    said: string;
    colour: string;
    /** Where a click on the bar leads. */
    href?: string | null;
    /** How the value came about, as a small line at the right. */
    trend?: number[];
  };
</script>

<script lang="ts">
  import { way } from "./plot";

  /** Bars from the left, one below the other, with their names before and their values behind them. */
  let { rows, label }: { rows: RowBar[]; label: string } = $props();

  const ROW = 30;
  const VALUES = 110;
  const TREND = 120;
  const LETTERS = 26;
  let width = $state(800);
  const names = $derived(Math.min(190, width / 3));
  const trends = $derived(rows.some(({ trend }) => trend) && width > 560 ? TREND : 0);
  const most = $derived(Math.max(1e-9, ...rows.map(({ value }) => Math.abs(value ?? 0))));
  const size = (value: number) =>
    Math.max(1, (Math.abs(value) / most) * Math.max(20, width - names - VALUES - trends));
  const letters = $derived(Math.min(LETTERS, Math.floor(names / 7)));
  const short = (name: string) => (name.length > letters ? `${name.slice(0, letters - 1)}…` : name);

  function small(trend: number[]): string {
    const highest = Math.max(1, ...trend);
    const step = (TREND - 16) / Math.max(1, trend.length - 1);
    return way(trend.map((value, index) => [index * step, (ROW - 10) * (1 - value / highest)]));
  }
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {rows.length * ROW}"
    {width}
    height={rows.length * ROW}
    role="group"
    aria-label={label}
  >
    {#each rows as row, at (at)}
      {@const top = at * ROW}
      <text x={names - 10} y={top + 19} text-anchor="end" class="fill-(--ink) text-[13px]"
        ><title>{row.name}</title>{short(row.name)}</text
      >
      {#snippet bar(value: number)}
        <rect x={names} y={top + 5} width={size(value)} height={ROW - 10} fill={row.colour} />
        <text x={names + size(value) + 8} y={top + 19} class="fill-(--ink) text-[13px] font-semibold"
          >{row.said}</text
        >
      {/snippet}
      {#if row.value && row.href}
        <a href={row.href} aria-label="{row.name}: {row.said}">{@render bar(row.value)}</a>
      {:else if row.value}{@render bar(row.value)}
      {:else}
        <text x={names + 2} y={top + 19} class="fill-(--ink-soft) text-[13px]">{row.said}</text>
      {/if}
      {#if row.trend && trends}
        <path
          d={small(row.trend)}
          transform="translate({width - TREND + 12} {top + 5})"
          fill="none"
          stroke={row.colour}
          stroke-width="1.4"
        />
      {/if}
    {/each}
  </svg>
</div>
