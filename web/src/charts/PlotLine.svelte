<script lang="ts">
  import { band, way, type Line } from "./plot";
  import type { Scale } from "./Chart.svelte";

  /** One line of a picture: its interval, its way, the marks on it and its points. */
  let {
    line,
    xs,
    x,
    y,
    drawn,
    steps,
    pointed,
    hollow = null,
  }: {
    line: Line;
    xs: number[];
    x: Scale;
    y: Scale;
    /** Whether a value can be drawn at all. */
    drawn: (value: number | null | undefined) => value is number;
    steps: boolean;
    pointed: number | null;
    /** Points below it are hollow. */
    hollow?: number | null;
  } = $props();

  const MOST_POINTS = 60;

  function placed(values: (number | null)[]): ([number, number] | null)[] {
    return values.map((value, index) => (drawn(value) ? [x(xs[index]!), y(value)] : null));
  }

  const points = $derived(placed(line.values));
  const shape = $derived(way(steps ? points.filter((point) => point !== null) : points, steps));
  const dotted = $derived(!steps && !line.dash);
</script>

{#if line.low && line.high}
  <path d={band(placed(line.low), placed(line.high), steps)} fill={line.colour} fill-opacity="0.16" />
{/if}
<path
  d={shape}
  fill="none"
  stroke={line.colour}
  stroke-width={line.width ?? 2}
  stroke-dasharray={line.dash}
  stroke-linejoin="round"
/>
{#each points as point, index (index)}
  {#if point && line.ticks?.[index]}
    <line x1={point[0]} x2={point[0]} y1={point[1] - 4} y2={point[1] + 4} stroke={line.colour} />
  {/if}
  {#if point && dotted && (xs.length <= MOST_POINTS || pointed === index)}
    <circle
      cx={point[0]}
      cy={point[1]}
      r={pointed === index ? 4 : 2.5}
      fill={hollow !== null && line.values[index]! < hollow ? "var(--paper)" : line.colour}
      stroke={line.colour}
      stroke-width="1.5"
    />
  {/if}
{/each}
