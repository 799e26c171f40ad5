<script lang="ts" module>
  export type BarSeries = {
    name: string;
    colour: string;
    /** One for each place; null where there is nothing to tell. */
    values: (number | null)[];
    /** What lies behind each bar, as an outline. */
    behind?: (number | null)[] | null;
    /** Between what each may lie, by chance; left out where bars are on top of each other. */
    intervals?: ([number, number] | number[] | null)[] | null;
    /** Where a click on each bar leads. */
    hrefs: (string | null)[];
  };
</script>

<script lang="ts">
  import { linear } from "./scale";
  import Axes from "./Axes.svelte";
  import { orMore } from "./plot";

  /** Upright bars, those of several series beside each other at each place or on top of each other. */
  let {
    places,
    series,
    label,
    format,
    stacked = false,
    height = 330,
  }: {
    places: string[];
    series: BarSeries[];
    label: string;
    format: (value: number) => string;
    stacked?: boolean;
    height?: number;
  } = $props();

  const margin = { top: 22, bottom: 26, left: 52, right: 8 };
  /** A value is written on a bar that is wider than this. */
  const WRITTEN = 30;
  /** A picture no higher than this has few levels. */
  const LOW = 150;
  let width = $state(800);
  const bottom = $derived(height - margin.bottom);
  const step = $derived((width - margin.left - margin.right) / Math.max(1, places.length));
  const thick = $derived((step * 0.8) / (stacked ? 1 : Math.max(1, series.length)));
  const sum = (place: number) => series.reduce((all, { values }) => all + (values[place] ?? 0), 0);
  const most = $derived(
    stacked
      ? Math.max(...places.map((_, place) => sum(place)))
      : Math.max(
          ...series.flatMap(({ values, behind, intervals }) =>
            [...values, ...(behind ?? []), ...(intervals ?? []).map((one) => one?.[1] ?? 0)].map(
              (v) => v ?? 0,
            ),
          ),
        ),
  );
  const y = $derived(linear([0, Math.max(1e-9, most)], [bottom, margin.top]));
  const middle = (place: number) => margin.left + (place + 0.5) * step;

  function left(place: number, index: number): number {
    return margin.left + place * step + step * 0.1 + (stacked ? 0 : index * thick);
  }

  /** What lies below a bar where they are on top of each other. */
  function base(place: number, index: number): number {
    return stacked ? series.slice(0, index).reduce((all, { values }) => all + (values[place] ?? 0), 0) : 0;
  }
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg viewBox="0 0 {width} {height}" {width} {height} role="group" aria-label={label}>
    <Axes
      levels={y.ticks(height > LOW ? 4 : 1)}
      {y}
      {format}
      left={margin.left}
      right={width - margin.right}
      marks={places.map((text, at) => ({ at, text: orMore(text, step) }))}
      x={middle}
      {bottom}
    />
    {#each places as place, at (at)}
      {#each series as one, index (index)}
        {@const value = one.values[at] ?? null}
        {@const from = base(at, index)}
        {@const behind = stacked ? null : (one.behind?.[at] ?? null)}
        {@const interval = stacked ? null : (one.intervals?.[at] ?? null)}
        {#if behind !== null}
          <rect
            x={left(at, index) - 2}
            y={y(behind)}
            width={thick + 2}
            height={bottom - y(behind)}
            fill="none"
            stroke={one.colour}
            stroke-dasharray="2 3"
          />
        {/if}
        {#snippet bar(shown: number)}
          <rect
            x={left(at, index)}
            y={y(from + shown)}
            width={Math.max(1, thick - 2)}
            height={Math.max(0, y(from) - y(from + shown))}
            fill={one.colour}
            ><title
              >{one.name}, {place}: {format(shown)}{interval
                ? ` (95% CI ${format(Math.max(0, interval[0]!))} to ${format(interval[1]!)})`
                : ""}</title
            ></rect
          >
          {#if interval}
            <line
              x1={left(at, index) + thick / 2 - 1}
              x2={left(at, index) + thick / 2 - 1}
              y1={y(Math.max(0, interval[0]!))}
              y2={y(interval[1]!)}
              stroke="var(--ink)"
              stroke-width="1.5"
            />
          {/if}
          {#if thick > WRITTEN && !stacked}
            <text
              x={left(at, index) + thick / 2 - 1}
              y={y(interval ? interval[1]! : shown) - 6}
              text-anchor="middle"
              class="fill-(--ink) text-[12px]">{format(shown)}</text
            >
          {/if}
        {/snippet}
        {#if value && one.hrefs[at]}
          <a href={one.hrefs[at]} aria-label="{one.name}, {place}: {format(value)}">{@render bar(value)}</a>
        {:else if value}{@render bar(value)}{/if}
      {/each}
    {/each}
  </svg>
</div>
