<script lang="ts" module>
  export type Margin = { top: number; right: number; bottom: number; left: number };
  export type Scale = (value: number) => number;
</script>

<script lang="ts">
  import { scaleLinear } from "d3-scale";
  import type { Snippet } from "svelte";
  import Axes from "./Axes.svelte";

  /**
   * The paper of a picture whose places lie side by side: its axes, the hatching over what is incomplete, and the place
   * that the pointer or the arrow keys choose to read. What is drawn on it gets the scale across.
   */
  let {
    label,
    height,
    margin,
    places,
    y,
    levels,
    format,
    marks,
    unfinished = null,
    hatch = "var(--rule-strong)",
    leap = 10,
    pointed = $bindable(null),
    point,
    leave,
    open,
    narrow,
    openable = false,
    testid,
    children,
    over,
  }: {
    label: string;
    height: number;
    margin: Margin;
    /** Where the places lie, from left to right. */
    places: number[];
    y: Scale;
    levels: number[];
    format: (level: number) => string;
    marks: { at: number; text: string }[];
    /** The number of the first place that is incomplete. */
    unfinished?: number | null;
    /** The ink of the hatching. */
    hatch?: string;
    /** Over how many places a leap goes. */
    leap?: number;
    /** The number of the place that is read. */
    pointed?: number | null;
    /** Told which place the pointer is at, and how far down. */
    point?: (index: number, down: number) => void;
    leave?: () => void;
    open?: () => void;
    /** Told the first and the last place of a stretch that the pointer was drawn across. */
    narrow?: (first: number, last: number) => void;
    openable?: boolean;
    testid?: string;
    children: Snippet<[Scale, number]>;
    /** What lies over the hatching. */
    over?: Snippet<[Scale, number]>;
  } = $props();

  const uid = $props.id();
  let width = $state(1100);
  const right = $derived(width - Math.min(margin.right, width / 3));
  const bottom = $derived(height - margin.bottom);
  const first = $derived(places[0] ?? 0);
  const x = $derived(scaleLinear([first, Math.max(places.at(-1) ?? 1, first + 1)], [margin.left, right]));
  const begins = $derived(unfinished === null ? null : x(places[Math.max(0, unfinished - 1)] ?? first));

  /** Where the pointer went down, and whether it has been drawn across the picture since. */
  let from = $state<number | null>(null);
  let drawn = false;
  const stretch = $derived(
    from === null || pointed === null || from === pointed
      ? null
      : [x(places[Math.min(from, pointed)]!), x(places[Math.max(from, pointed)]!)],
  );

  function down(event: PointerEvent) {
    drawn = false;
    if (!narrow || event.button !== 0) return;
    moved(event);
    from = pointed;
    (event.currentTarget as SVGElement).setPointerCapture?.(event.pointerId);
  }

  function up() {
    if (from !== null && pointed !== null && from !== pointed) {
      drawn = true;
      narrow?.(Math.min(from, pointed), Math.max(from, pointed));
    }
    from = null;
  }

  /** A click that ends a stretch opens nothing. */
  function clicked() {
    if (!drawn) open?.();
  }

  function moved(event: PointerEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const across = x.invert(((event.clientX - box.left) / box.width) * width);
    const after = places.findIndex((place) => place >= across);
    const index = after < 0 ? places.length - 1 : after;
    const nearer = index > 0 && across - places[index - 1]! < places[index]! - across;
    pointed = nearer ? index - 1 : index;
    point?.(pointed, ((event.clientY - box.top) / box.height) * height);
  }

  function pressed(event: KeyboardEvent) {
    if (event.key === "Escape") pointed = null;
    if (event.key === "Enter") open?.();
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -leap, PageDown: leap }[event.key];
    if (!step) return;
    event.preventDefault();
    pointed = Math.min(places.length - 1, Math.max(0, (pointed ?? places.length - 1) + step));
  }
</script>

<div bind:clientWidth={width}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    viewBox="0 0 {width} {height}"
    {width}
    {height}
    role="img"
    tabindex="0"
    aria-label="{label}. Left and right arrow choose a place to read."
    class="block {openable ? 'cursor-pointer' : ''}"
    onpointerdown={down}
    onpointermove={moved}
    onpointerup={up}
    onpointerleave={leave}
    onclick={clicked}
    onkeydown={pressed}
    data-testid={testid}
  >
    <defs>
      <pattern
        id="{uid}-hatch"
        width="8"
        height="8"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="2.5" height="8" fill={hatch} opacity="0.55" />
      </pattern>
    </defs>
    <Axes {levels} {y} {format} left={margin.left} {right} {marks} {x} {bottom} />
    {@render children(x, right)}
    {#if begins !== null}
      <rect
        x={begins}
        width={Math.max(3, right - begins)}
        y={margin.top}
        height={bottom - margin.top}
        fill="url(#{uid}-hatch)"
        data-testid="incomplete"
      />
    {/if}
    {@render over?.(x, right)}
    {#if stretch}
      <rect
        x={stretch[0]}
        width={stretch[1]! - stretch[0]!}
        y={margin.top}
        height={bottom - margin.top}
        fill="var(--accent)"
        opacity="0.14"
        data-testid="stretch"
      />
    {/if}
    {#if pointed !== null && pointed < places.length}
      {@const at = x(places[pointed]!)}
      <line
        x1={at}
        x2={at}
        y1={margin.top}
        y2={bottom}
        stroke="var(--ink)"
        stroke-width="1.5"
        stroke-opacity="0.6"
      />
    {/if}
  </svg>
</div>
