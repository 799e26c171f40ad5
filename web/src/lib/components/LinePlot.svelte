<script lang="ts" module>
  /** One line: its values (null where there is none), its colour, and maybe the ends of an interval around it. */
  export type Line = {
    name: string;
    values: (number | null)[];
    colour: string;
    dash?: string;
    width?: number;
    low?: (number | null)[];
    high?: (number | null)[];
    /** Where something is marked on the line. */
    ticks?: boolean[];
  };
</script>

<script lang="ts">
  import { scaleLinear, scaleLog } from "d3-scale";
  import { apart, broken, stairs } from "../plot";
  import Axes from "./Axes.svelte";

  /** Lines over a common axis, named at their ends; arrows or the pointer choose a place to read. */
  let {
    lines,
    xs,
    marks,
    format,
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
  }: {
    lines: Line[];
    xs: number[];
    marks: { at: number; text: string }[];
    format: (value: number) => string;
    label: string;
    height?: number;
    least?: number;
    most?: number | null;
    reference?: { at: number; text: string } | null;
    verticals?: { at: number; text: string }[];
    /** The number of the first place that is incomplete. */
    unfinished?: number | null;
    steps?: boolean;
    /** Whether equal distances stand for equal ratios; what is not above zero is left out. */
    log?: boolean;
    /** Room on the right for the names. */
    room?: number;
    pointed?: number | null;
    open?: (index: number) => void;
  } = $props();

  const uid = $props.id();
  let width = $state(1100);
  const MARGIN = { top: 14, bottom: 26, left: 52 };
  const right = $derived(Math.min(room, width / 3));
  const x = $derived(
    scaleLinear([xs[0] ?? 0, Math.max(xs.at(-1) ?? 1, (xs[0] ?? 0) + 1)], [MARGIN.left, width - right]),
  );
  const top = $derived(
    most ??
      Math.max(
        reference?.at ?? 0,
        ...lines.flatMap((line) => [...line.values, ...(line.high ?? [])]).filter((value) => value !== null),
        least + 1e-9,
      ),
  );
  const positive = $derived(
    lines.flatMap((line) => line.values).filter((value): value is number => value !== null && value > 0),
  );
  const y = $derived(
    (log
      ? scaleLog([Math.min(0.5, ...positive), Math.max(2, ...positive)], [0, 1])
      : scaleLinear([least, top], [0, 1])
    ).range([height - MARGIN.bottom, MARGIN.top]),
  );
  const levels = $derived(
    log
      ? [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].filter(
          (level) => level >= y.domain()[0]! && level <= y.domain()[1]!,
        )
      : y.ticks(4),
  );

  function drawn(value: number | null | undefined): value is number {
    return value !== null && value !== undefined && (!log || value > 0);
  }

  function short(name: string): string {
    const most = Math.floor(right / 7.5) - 8;
    return name.length > most ? `${name.slice(0, Math.max(3, most - 1))}…` : name;
  }
  const ends = $derived(
    apart(
      lines.flatMap((line) => {
        const index = line.values.findLastIndex(drawn);
        const value = line.values[pointed ?? index] ?? line.values[index];
        return index < 0 || !drawn(value)
          ? []
          : [{ name: line.name, colour: line.colour, value, at: y(line.values[index]!) }];
      }),
      16,
      height - MARGIN.bottom,
    ),
  );

  function points(values: (number | null)[]): ([number, number] | null)[] {
    return values.map((value, index) => (drawn(value) ? [x(xs[index]!), y(value)] : null));
  }

  function path(values: (number | null)[]): string {
    const placed = points(values);
    return steps ? stairs(placed.filter((point) => point !== null)) : broken(placed);
  }

  /** The band between the ends of the intervals; it keeps to the places where both are known. */
  function band(line: Line): string {
    const known = xs
      .map((_, index) => index)
      .filter((index) => line.low![index] !== null && line.high![index] !== null);
    const upper = known.map((index): [number, number] => [x(xs[index]!), y(line.high![index]!)]);
    const lower = known.map((index): [number, number] => [x(xs[index]!), y(line.low![index]!)]);
    if (!known.length) return "";
    if (!steps) return `${broken(upper)}${broken([...lower].reverse()).replace("M", "L")}Z`;
    const back = [...lower]
      .reverse()
      .map(
        ([at, level], index, all) =>
          (index ? `H${at.toFixed(1)}` : `L${at.toFixed(1)},${level.toFixed(1)}`) +
          (all[index + 1] ? `V${all[index + 1]![1].toFixed(1)}` : ""),
      );
    return `${stairs(upper)}${back.join("")}Z`;
  }

  function point(event: PointerEvent) {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const across = x.invert(((event.clientX - box.left) / box.width) * width);
    const after = xs.findIndex((value) => value >= across);
    const index = after < 0 ? xs.length - 1 : after;
    pointed = index > 0 && across - xs[index - 1]! < xs[index]! - across ? index - 1 : index;
  }

  function pressed(event: KeyboardEvent) {
    if (event.key === "Escape") pointed = null;
    if (event.key === "Enter" && pointed !== null) open?.(pointed);
    const step = { ArrowLeft: -1, ArrowRight: 1, PageUp: -10, PageDown: 10 }[event.key];
    if (!step) return;
    event.preventDefault();
    pointed = Math.min(xs.length - 1, Math.max(0, (pointed ?? xs.length - 1) + step));
  }
</script>

<div bind:clientWidth={width} class="mt-1">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <svg
    viewBox="0 0 {width} {height}"
    {width}
    {height}
    role="img"
    tabindex="0"
    aria-label="{label}. Left and right arrow choose a place to read."
    class="block {open ? 'cursor-pointer' : ''}"
    onpointermove={point}
    onclick={() => pointed !== null && open?.(pointed)}
    onkeydown={pressed}
  >
    <defs>
      <pattern
        id="{uid}-hatch"
        width="8"
        height="8"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="2" height="8" fill="var(--rule-strong)" opacity="0.5" />
      </pattern>
    </defs>
    <Axes
      {levels}
      {y}
      {format}
      left={MARGIN.left}
      right={width - right}
      {marks}
      {x}
      bottom={height - MARGIN.bottom}
    />
    {#if unfinished !== null && unfinished < xs.length}
      <rect
        x={x(xs[Math.max(0, unfinished - 1)]!)}
        width={Math.max(3, x(xs.at(-1)!) - x(xs[Math.max(0, unfinished - 1)]!))}
        y={MARGIN.top}
        height={height - MARGIN.bottom - MARGIN.top}
        fill="url(#{uid}-hatch)"
      />
    {/if}
    {#each lines as line (line.name)}
      {#if line.low && line.high}<path d={band(line)} fill={line.colour} fill-opacity="0.16" />{/if}
    {/each}
    {#if reference}
      <line
        x1={MARGIN.left}
        x2={width - right}
        y1={y(reference.at)}
        y2={y(reference.at)}
        stroke="var(--ink)"
        stroke-width="1.2"
      />
      <text x={MARGIN.left + 4} y={y(reference.at) - 5} class="fill-(--ink) text-[12px]"
        >{reference.text}</text
      >
    {/if}
    {#each verticals as vertical, index (index)}
      {#if vertical.at >= x.domain()[0]! && vertical.at <= x.domain()[1]!}
        <line
          x1={x(vertical.at)}
          x2={x(vertical.at)}
          y1={MARGIN.top}
          y2={height - MARGIN.bottom}
          stroke="var(--ink)"
          stroke-dasharray="4 3"
        />
        <text x={x(vertical.at) + 5} y={MARGIN.top + 10 + 15 * (index % 3)} class="fill-(--ink) text-[12px]"
          >{vertical.text}</text
        >
      {/if}
    {/each}
    {#each lines as line (line.name)}
      <path
        d={path(line.values)}
        fill="none"
        stroke={line.colour}
        stroke-width={line.width ?? 2}
        stroke-dasharray={line.dash}
        stroke-linejoin="round"
      />
      {#each line.values as value, index (index)}
        {#if line.ticks?.[index] && drawn(value)}
          <line
            x1={x(xs[index]!)}
            x2={x(xs[index]!)}
            y1={y(value) - 4}
            y2={y(value) + 4}
            stroke={line.colour}
          />
        {/if}
        {#if drawn(value) && (xs.length <= 60 || pointed === index) && !steps && !line.dash}
          <circle
            cx={x(xs[index]!)}
            cy={y(value)}
            r={pointed === index ? 4 : 2.5}
            fill={reference && value < reference.at ? "var(--paper)" : line.colour}
            stroke={line.colour}
            stroke-width="1.5"
          />
        {/if}
      {/each}
    {/each}
    {#each ends as end (end.name)}
      <text x={width - right + 8} y={end.at + 4} class="text-[13px]" fill={end.colour}>
        {short(end.name)} <tspan font-weight="600">{format(end.value)}</tspan>
      </text>
    {/each}
    {#if pointed !== null && pointed < xs.length}
      <line
        x1={x(xs[pointed]!)}
        x2={x(xs[pointed]!)}
        y1={MARGIN.top}
        y2={height - MARGIN.bottom}
        stroke="var(--ink)"
        stroke-opacity="0.5"
      />
    {/if}
  </svg>
</div>
