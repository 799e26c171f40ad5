<script lang="ts">
  import { linear, logarithmic } from "./scale";
  import { apart, shortened, type Line } from "./plot";
  import type { Days } from "../notes/notes.svelte";
  import Chart from "./Chart.svelte";
  import PlotLine from "./PlotLine.svelte";

  /** Lines over a common axis, named at their ends. */
  let {
    lines,
    xs,
    marks,
    format,
    level = format,
    label,
    height = 230,
    least = 0,
    most = null,
    reference = null,
    verticals = [],
    unfinished = null,
    steps = false,
    log = false,
    room = 150,
    pointed = $bindable(null),
    open,
    narrow,
    days = null,
  }: {
    lines: Line[];
    xs: number[];
    marks: { at: number; text: string }[];
    format: (value: number) => string;
    /** How the levels of the axis are written, where that is shorter. */
    level?: (value: number) => string;
    label: string;
    height?: number;
    least?: number;
    most?: number | null;
    /** A level to compare with; points below it are hollow. */
    reference?: { at: number; text: string } | null;
    verticals?: { at: number; text: string }[];
    /** The number of the first place that is incomplete. */
    unfinished?: number | null;
    /** Whether a value holds until the next one. */
    steps?: boolean;
    /** Whether equal distances stand for equal ratios; what is not above zero is left out. */
    log?: boolean;
    /** Room on the right for the names. */
    room?: number;
    pointed?: number | null;
    open?: (index: number) => void;
    /** See the chart. */
    narrow?: (first: number, last: number) => void;
    days?: Days[] | null;
  } = $props();

  const margin = $derived({ top: 14, right: room, bottom: 26, left: 52 });
  const bottom = $derived(height - margin.bottom);
  const values = $derived(lines.flatMap((line) => [...line.values, ...(line.high ?? [])]).filter(drawn));
  const y = $derived.by(() => {
    const range: [number, number] = [bottom, margin.top];
    if (log) return logarithmic([Math.min(0.5, ...values), Math.max(2, ...values)], range);
    return linear([least, most ?? Math.max(reference?.at ?? 0, ...values, least + 1e-9)], range);
  });
  const levels = $derived(y.ticks(4));
  const names = $derived(
    apart(
      lines.flatMap((line, key) => {
        const end = line.values.findLastIndex(drawn);
        const value = line.values[pointed ?? end] ?? line.values[end];
        if (line.behind || end < 0 || !drawn(value)) return [];
        return [{ key, name: line.name, colour: line.colour, value, at: y(line.values[end]!) }];
      }),
      16,
      bottom,
    ),
  );

  /** Those that lie in the picture. */
  const inside = $derived(verticals.filter(({ at }) => at >= (xs[0] ?? 0) && at <= (xs.at(-1) ?? 0)));

  function drawn(value: number | null | undefined): value is number {
    return value !== null && value !== undefined && (!log || value > 0);
  }
</script>

<div class="mt-1">
  <Chart
    {label}
    {height}
    {margin}
    places={xs}
    {y}
    {levels}
    format={level}
    {marks}
    {unfinished}
    bind:pointed
    open={() => pointed !== null && open?.(pointed)}
    {narrow}
    {days}
    openable={Boolean(open)}
  >
    {#snippet children(x, right)}
      {#if reference}
        <line
          x1={margin.left}
          x2={right}
          y1={y(reference.at)}
          y2={y(reference.at)}
          stroke="var(--ink)"
          stroke-width="1.2"
        />
        <text x={margin.left + 4} y={y(reference.at) - 5} class="fill-(--ink) text-[12px]"
          >{reference.text}</text
        >
      {/if}
      {#each inside as { at }, index (index)}
        <line x1={x(at)} x2={x(at)} y1={margin.top} y2={bottom} stroke="var(--ink)" stroke-dasharray="4 3" />
      {/each}
    {/snippet}
    {#snippet over(x, right, left)}
      {#each lines as line, index (index)}
        <PlotLine {line} {xs} {x} {y} {drawn} {steps} {pointed} hollow={reference?.at} />
      {/each}
      {#each inside as { at, text }, index (index)}
        <text
          x={x(at) + 5}
          y={margin.top + 10 + 15 * (index % 3)}
          class="fill-(--ink) text-[12px]"
          paint-order="stroke"
          stroke="var(--paper)"
          stroke-width="3">{text}</text
        >
      {/each}
      {#each names as end (end.key)}
        <text x={right + 8} y={end.at + 4} class="text-[13px]" fill={end.colour}>
          {shortened(end.name, left - 8, format(end.value))}
          <tspan font-weight="600">{format(end.value)}</tspan>
        </text>
      {/each}
    {/snippet}
  </Chart>
</div>
