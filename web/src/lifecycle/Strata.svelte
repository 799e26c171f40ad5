<script lang="ts">
  import { scaleLinear } from "d3-scale";
  import { area, stack, stackOrderNone } from "d3-shape";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, number } from "../lib/format";
  import { dateMarks, firstIncomplete } from "./lifecycle";
  import { apart, way } from "../charts/plot";
  import { SEEN_STATES, type State } from "./states";
  import Chart, { type Scale } from "../charts/Chart.svelte";

  /**
   * The four states at each date of a range, lying on each other; a click opens the people of a state on a date. What is
   * laid behind shows as a line: how many were new or active so much earlier.
   */
  let { base, people }: { base: Schemas["StatesPicture"]; people: (state: State, date: string) => string } =
    $props();

  const HEIGHT = 300;
  const MARGIN = { top: 8, right: 132, bottom: 26, left: 52 };
  const LABEL_GAP = 17;

  let pointed = $state<number | null>(null);
  let pointedState = $state<State | null>(null);

  // The liveliest lie at the bottom, where their height is read most easily.
  const order: State[] = ["active", "new", "dormant", "churned"];
  const days = $derived(base.counts.active.length);
  const layers = $derived.by(() => {
    const rows = Array.from({ length: days }, (_, index) =>
      Object.fromEntries(
        SEEN_STATES.map((state) => [state, base.counts[state as keyof typeof base.counts][index]!]),
      ),
    );
    return stack<Record<string, number>>().keys(order).order(stackOrderNone)(rows);
  });
  const top = $derived(
    [...(layers.at(-1)?.map((point) => point[1]) ?? []), ...(base.compared?.alive ?? [])].reduce(
      (most, value) => Math.max(most, value),
      1,
    ),
  );
  const y = $derived(scaleLinear([0, top], [HEIGHT - MARGIN.bottom, MARGIN.top]).nice(4));
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
    label="People in each state from {day(base.from)} to {day(base.to)}; the figures of a date stand below"
    height={HEIGHT}
    margin={MARGIN}
    places={base.dates.map((_, index) => index)}
    {y}
    levels={y.ticks(4)}
    format={number}
    {marks}
    {unfinished}
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
      {#if base.compared}
        {@const earlier = way(base.compared.alive.map((count, index) => [x(index), y(count)]))}
        <path d={earlier} fill="none" stroke="var(--paper)" stroke-width="4" stroke-opacity="0.8" />
        <path d={earlier} fill="none" stroke="var(--ink)" stroke-width="1.8" stroke-dasharray="6 4" />
      {/if}
      {#each ends as label (label.state)}
        <text x={right + 10} y={label.at + 4} class="fill-(--ink) text-[13px]">
          {label.state}
          <tspan font-weight="600">{number(countAt(label.state, shown))}</tspan>
        </text>
      {/each}
    {/snippet}
  </Chart>
  <p class="mt-1 flex min-h-8 flex-wrap items-baseline gap-x-5" aria-live="polite">
    <span class="font-semibold">{day(dateAt(shown))}</span>
    {#each SEEN_STATES as state (state)}
      <span>
        <a href={people(state, dateAt(shown))}>{number(countAt(state, shown))} {state}</a>
      </span>
    {/each}
    {#if base.compared}<span class="soft"
        >{number(base.compared.alive[shown] ?? 0)} new or active so much earlier (broken line)</span
      >{/if}
    {#if unfinished !== null && shown >= unfinished}<span class="soft">incomplete</span>{/if}
    <span class="soft small ml-auto">Click a layer to see its people; ← → choose a date.</span>
  </p>
</div>
