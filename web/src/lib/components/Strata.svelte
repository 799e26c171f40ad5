<script lang="ts">
  import { scaleLinear } from "d3-scale";
  import { area, stack, stackOrderNone } from "d3-shape";
  import { address } from "../address.svelte";
  import type { Schemas } from "../api/client";
  import { day, number } from "../format";
  import { dateMarks } from "../lifecycle";
  import { apart } from "../plot";
  import { SEEN_STATES, type State } from "../states";
  import Axes from "./Axes.svelte";

  /**
   * The four states at each date of a range, lying on each other; a click opens the people of a state on a date. What is
   * laid behind shows as a line: how many were new or active so much earlier.
   */
  let { base, people }: { base: Schemas["Base"]; people: (state: State, date: string) => string } = $props();

  const HEIGHT = 300;
  const MARGIN = { top: 8, right: 132, bottom: 26, left: 52 };
  const LABEL_GAP = 17;
  const uid = $props.id();

  let width = $state(1100);
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
    [...(layers.at(-1)?.map((point) => point[1]) ?? []), ...(base.behind?.alive ?? [])].reduce(
      (most, value) => Math.max(most, value),
      1,
    ),
  );
  const x = $derived(scaleLinear([0, Math.max(1, days - 1)], [MARGIN.left, width - MARGIN.right]));
  const y = $derived(scaleLinear([0, top], [HEIGHT - MARGIN.bottom, MARGIN.top]).nice(4));
  const path = $derived(
    area<[number, number]>()
      .x((_, index) => x(days === 1 ? index : index))
      .y0((point) => y(point[0]))
      .y1((point) => y(point[1])),
  );
  const months = $derived(dateMarks(base.dates, 8));
  const behind = $derived(
    base.behind
      ? base.behind.alive.map((people, index) => `${x(index).toFixed(1)},${y(people).toFixed(1)}`).join(" ")
      : "",
  );
  // Names at the ends of the layers, moved apart where layers are thin.
  const ends = $derived.by(() => {
    const labels = layers.map((layer) => ({
      state: layer.key as State,
      at: y((layer.at(-1)![0] + layer.at(-1)![1]) / 2),
    }));
    return apart(labels, LABEL_GAP, HEIGHT - MARGIN.bottom);
  });
  // Periods that have not ended are hatched.
  const unfinished = $derived.by(() => {
    const first = base.periods.findIndex((period) => !period.complete);
    return first < 0 ? null : first;
  });
  const shown = $derived(pointed ?? days - 1);

  function dateAt(index: number): string {
    return base.dates[index]!;
  }

  function countAt(state: State, index: number): number {
    return base.counts[state][index] ?? 0;
  }

  function point(event: PointerEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const across = x.invert(((event.clientX - box.left) / box.width) * width);
    pointed = Math.min(days - 1, Math.max(0, Math.round(across)));
    const value = y.invert(((event.clientY - box.top) / box.height) * HEIGHT);
    pointedState =
      (layers.find((layer) => value >= layer[pointed!]![0] && value < layer[pointed!]![1])?.key as State) ??
      null;
  }

  function open() {
    if (pointed !== null && pointedState) address.go(people(pointedState, dateAt(pointed)));
  }

  function pressed(event: KeyboardEvent) {
    if (event.key === "Escape") pointed = null;
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -30, PageDown: 30 }[event.key];
    if (!step) return;
    event.preventDefault();
    pointed = Math.min(days - 1, Math.max(0, shown + step));
  }
</script>

<div bind:clientWidth={width} class="mt-2">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    viewBox="0 0 {width} {HEIGHT}"
    {width}
    height={HEIGHT}
    role="img"
    tabindex="0"
    aria-label="People in each state from {day(base.from)} to {day(
      base.to,
    )}. Left and right arrow choose a day; the figures of that day stand below."
    class="block {pointedState ? 'cursor-pointer' : ''}"
    onpointermove={point}
    onpointerleave={() => (pointedState = null)}
    onclick={open}
    onkeydown={pressed}
    data-testid="strata"
  >
    <defs>
      <pattern
        id="{uid}-hatch"
        width="8"
        height="8"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="3" height="8" fill="var(--paper)" opacity="0.6" />
      </pattern>
    </defs>
    <Axes
      levels={y.ticks(4)}
      {y}
      format={number}
      left={MARGIN.left}
      right={width - MARGIN.right}
      marks={months}
      {x}
      bottom={HEIGHT - MARGIN.bottom}
    />
    {#each layers as layer (layer.key)}
      <path
        d={path(layer as unknown as [number, number][])}
        fill="url(#state-{layer.key})"
        stroke="var(--paper)"
        stroke-width="1"
        opacity={pointedState && pointedState !== layer.key ? 0.55 : 1}
      />
    {/each}
    {#if unfinished !== null && unfinished < days}
      <rect
        x={x(Math.max(0, unfinished - 1))}
        width={Math.max(3, x(days - 1) - x(Math.max(0, unfinished - 1)))}
        y={MARGIN.top}
        height={HEIGHT - MARGIN.bottom - MARGIN.top}
        fill="url(#{uid}-hatch)"
      />
    {/if}
    {#if behind}
      <polyline points={behind} fill="none" stroke="var(--paper)" stroke-width="4" stroke-opacity="0.8" />
      <polyline points={behind} fill="none" stroke="var(--ink)" stroke-width="1.8" stroke-dasharray="6 4" />
    {/if}
    {#each ends as label (label.state)}
      <text x={width - MARGIN.right + 10} y={label.at + 4} class="fill-(--ink) text-[13px]">
        {label.state}
        <tspan font-weight="600">{number(countAt(label.state, shown))}</tspan>
      </text>
    {/each}
    {#if pointed !== null}
      <line
        x1={x(pointed)}
        x2={x(pointed)}
        y1={MARGIN.top}
        y2={HEIGHT - MARGIN.bottom}
        stroke="var(--ink)"
        stroke-width="1.5"
      />
    {/if}
  </svg>
  <p class="mt-1 flex min-h-8 flex-wrap items-baseline gap-x-5" aria-live="polite">
    <span class="font-semibold">{day(dateAt(shown))}</span>
    {#each SEEN_STATES as state (state)}
      <span>
        <a href={people(state, dateAt(shown))}>{number(countAt(state, shown))} {state}</a>
      </span>
    {/each}
    {#if base.behind}<span class="soft"
        >{number(base.behind.alive[shown] ?? 0)} new or active so much earlier (broken line)</span
      >{/if}
    {#if unfinished !== null && shown >= unfinished}<span class="soft">incomplete</span>{/if}
    <span class="soft small ml-auto">Click a layer to see its people; ← → choose a date.</span>
  </p>
</div>
