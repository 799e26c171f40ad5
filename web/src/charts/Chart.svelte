<script lang="ts" module>
  export type Margin = { top: number; right: number; bottom: number; left: number };
  export type Scale = (value: number) => number;
</script>

<script lang="ts">
  import { linear } from "./scale";
  import type { Snippet } from "svelte";
  import Axes from "./Axes.svelte";
  import { above, ROW } from "../notes/above";
  import NotesAbove from "../notes/NotesAbove.svelte";
  import NotesBelow from "../notes/NotesBelow.svelte";
  import { notes, type Days } from "../notes/notes.svelte";

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
    days = null,
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
    /** The days that each place is about, where it is about days: what is noted on them is drawn. */
    days?: Days[] | null;
    openable?: boolean;
    testid?: string;
    children: Snippet<[Scale, number]>;
    /** What lies over the hatching; its third argument is the room on the right, which is less in a narrow window. */
    over?: Snippet<[Scale, number, number]>;
  } = $props();

  const uid = $props.id();
  let width = $state(1100);
  const right = $derived(width - Math.min(margin.right, width / 3));
  const bottom = $derived(height - margin.bottom);
  const first = $derived(places[0] ?? 0);
  const x = $derived(linear([first, Math.max(places.at(-1) ?? 1, first + 1)], [margin.left, right]));
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

  /** A click that ends a stretch opens nothing; one below the picture writes a note on that day. */
  function clicked(event: MouseEvent) {
    if (drawn) return;
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const down = depth(event, box);
    if (days && pointed !== null && down > bottom) writing = days[pointed]?.to ?? null;
    else open?.();
  }

  const marked = $derived(days ? notes.at(days) : []);
  const noted = $derived(above(marked, places.map(x), width));
  /** What the words of notes take above the picture, beyond its margin. */
  const more = $derived(
    noted.length ? Math.max(0, ROW * (1 + Math.max(...noted.map(({ row }) => row))) + 4 - margin.top) : 0,
  );
  /** The day on which a note is being written. */
  let writing = $state<string | null>(null);

  function depth(event: MouseEvent, box: DOMRect): number {
    return ((event.clientY - box.top) / box.height) * (height + more) - more;
  }

  function moved(event: PointerEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const across = x.invert(((event.clientX - box.left) / box.width) * width);
    const after = places.findIndex((place) => place >= across);
    const index = after < 0 ? places.length - 1 : after;
    const nearer = index > 0 && across - places[index - 1]! < places[index]! - across;
    pointed = nearer ? index - 1 : index;
    point?.(pointed, depth(event, box));
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
    viewBox="0 {-more} {width} {height + more}"
    {width}
    height={height + more}
    role="group"
    aria-roledescription="chart"
    tabindex="0"
    aria-label="{label}. Use the left and right arrow keys to read values."
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
    {@render over?.(x, right, width - right)}
    {#each marked as found, place (place)}
      {#if found.some(({ kind }) => kind !== "note") && places[place] !== undefined}
        <path d="M{x(places[place]!)} {bottom} l-4 7 h8 z" fill="var(--ink-soft)" data-testid="happened"
          ><title>{found.map(({ text }) => text).join("; ")}</title></path
        >
      {/if}
    {/each}
    <NotesAbove notes={noted} top={margin.top} {bottom} />
    {#if days}
      <rect
        x={margin.left}
        width={Math.max(0, right - margin.left)}
        y={bottom}
        height={margin.bottom}
        fill="transparent"
        class="cursor-text"
        data-testid="note-here"><title>Click to add a note on this date</title></rect
      >
    {/if}
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
  {#if days?.length}<NotesBelow marks={marked.flat()} bind:date={writing} fallback={days.at(-1)!.to} />{/if}
</div>
