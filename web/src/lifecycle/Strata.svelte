<script lang="ts">
  import { linear } from "../charts/scale";
  import { area, stack, stackOrderNone } from "d3-shape";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, fine, number, percent } from "../lib/format";
  import { drawn, drawnAs } from "./drawn";
  import { dateMarks, firstIncomplete } from "./lifecycle";
  import { apart, way } from "../charts/plot";
  import { stateName, type State } from "./states";
  import { upTo } from "../notes/notes.svelte";
  import Chart, { type Scale } from "../charts/Chart.svelte";

  /**
   * The states at each date of a range, lying on each other, as counts or as shares of those shown; a click opens the people of a state on a date. What is
   * laid behind shows as a line: how many were new or active so much earlier.
   */
  let { base, people }: { base: Schemas["StatesPicture"]; people: (state: State, date: string) => string } =
    $props();

  const HEIGHT = 320;
  const MARGIN = { top: 8, right: 140, bottom: 26, left: 52 };
  const LABEL_GAP = 17;

  let pointed = $state<number | null>(null);
  let pointedState = $state<State | null>(null);

  const order = $derived(drawn());
  const shares = $derived(drawnAs() === "shares");
  const days = $derived(base.counts.active.length);
  const layers = $derived.by(() => {
    const rows = Array.from({ length: days }, (_, index) => {
      const whole = shares ? order.reduce((sum, state) => sum + countAt(state, index), 0) || 1 : 1;
      return Object.fromEntries(order.map((state) => [state, countAt(state, index) / whole]));
    });
    return stack<Record<string, number>>().keys(order).order(stackOrderNone)(rows);
  });
  // How many were new or active so much earlier can be compared with counts only.
  const compared = $derived(shares ? null : base.compared);
  const top = $derived(
    [...(layers.at(-1)?.map((point) => point[1]) ?? []), ...(compared?.alive ?? [])].reduce<number>(
      (most, value) => Math.max(most, value ?? 0),
      1,
    ),
  );
  const y = $derived(linear([0, top], [HEIGHT - MARGIN.bottom, MARGIN.top]).nice(shares ? 1 : 4));
  const path = (x: Scale) =>
    area<[number, number]>()
      .x((_, index) => x(index))
      .y0((point) => y(point[0]))
      .y1((point) => y(point[1]));
  const marks = $derived(dateMarks(base.dates, 8));
  // Names at the ends of the layers, moved apart where layers are thin.
  const ends = $derived.by(() => {
    const labels = layers.map((layer) => ({
      state: layer.key as State,
      at: y((layer.at(-1)![0] + layer.at(-1)![1]) / 2),
    }));
    return apart(labels, LABEL_GAP, HEIGHT - MARGIN.bottom);
  });
  const unfinished = $derived(firstIncomplete(base.periods));
  const shown = $derived(pointed ?? days - 1);

  function dateAt(index: number): string {
    return base.dates[index]!;
  }

  function countAt(state: State, index: number): number {
    return base.counts[state][index] ?? 0;
  }

  function figureAt(state: State, index: number): string {
    if (!shares) return number(countAt(state, index));
    return percent(countAt(state, index) / (order.reduce((sum, one) => sum + countAt(one, index), 0) || 1));
  }

  function point(index: number, down: number) {
    const value = y.invert(down);
    const layer = layers.find((one) => value >= one[index]![0] && value < one[index]![1]);
    pointedState = (layer?.key as State) ?? null;
  }

  function open() {
    if (pointed !== null && pointedState) address.go(people(pointedState, dateAt(pointed)));
  }
</script>

<div class="mt-2">
  <Chart
    label="People per state, {day(base.from)} to {day(base.to)}; values for a date are shown below"
    height={HEIGHT}
    margin={MARGIN}
    places={base.dates.map((_, index) => index)}
    {y}
    levels={y.ticks(4)}
    format={shares ? fine : number}
    {marks}
    {unfinished}
    days={upTo(base.dates)}
    hatch="var(--paper)"
    leap={30}
    bind:pointed
    {point}
    leave={() => (pointedState = null)}
    {open}
    openable={pointedState !== null}
    testid="strata"
  >
    {#snippet children(x)}
      {#each layers as layer (layer.key)}
        <path
          d={path(x)(layer as unknown as [number, number][])}
          fill="url(#state-{layer.key})"
          stroke="var(--paper)"
          stroke-width="1"
          opacity={pointedState && pointedState !== layer.key ? 0.55 : 1}
        />
      {/each}
    {/snippet}
    {#snippet over(x, right)}
      {#if compared}
        {@const earlier = way(
          compared.alive.flatMap((count, index) => (count === null ? [] : [[x(index), y(count)] as const])),
        )}
        <path d={earlier} fill="none" stroke="var(--paper)" stroke-width="4" stroke-opacity="0.8" />
        <path d={earlier} fill="none" stroke="var(--ink)" stroke-width="1.8" stroke-dasharray="6 4" />
      {/if}
      {#each ends as label (label.state)}
        <text x={right + 10} y={label.at + 4} class="fill-(--ink) text-[13px]">
          {stateName(label.state)}
          <tspan font-weight="600">{figureAt(label.state, shown)}</tspan>
        </text>
      {/each}
    {/snippet}
  </Chart>
  <p class="mt-2 flex min-h-8 flex-wrap items-baseline gap-x-5" aria-live="polite">
    <span class="font-semibold">{day(dateAt(shown))}</span>
    {#each order.toReversed() as state (state)}
      <span>
        <a href={people(state, dateAt(shown))}>{figureAt(state, shown)} {stateName(state)}</a>
      </span>
    {/each}
    {#if compared && compared.alive[shown] != null}<span class="soft"
        >{number(compared.alive[shown])} new or active in the comparison period (dashed)</span
      >{/if}
    {#if unfinished !== null && shown >= unfinished}<span class="soft">incomplete</span>{/if}
    <span class="soft small ml-auto">Click an area to see its people. Use ← → to change the date.</span>
  </p>
</div>
