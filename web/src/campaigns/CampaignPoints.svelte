<script lang="ts">
  import { linear, logarithmic } from "../charts/scale";
  import { condition, messagesOf, named, type Point } from "./campaigns";
  import { number } from "../lib/format";
  import { audienceOf } from "../lib/groups";
  import { channelName } from "../lib/channels";
  import { apart } from "../charts/plot";
  import Axes from "../charts/Axes.svelte";

  /** Campaigns by how many messages they sent and how long the streaks of response to them are. */
  let { points }: { points: Point[] } = $props();

  const HEIGHT = 260;
  const MARGIN = { top: 22, right: 230, bottom: 40, left: 52 };
  const GAP = 15;
  let width = $state(1100);
  const bottom = HEIGHT - MARGIN.bottom;
  const right = $derived(width - Math.min(MARGIN.right, width / 3));
  const most = $derived(Math.max(10, ...points.map((point) => point.messages)));
  const least = $derived(Math.max(1, Math.min(most / 10, ...points.map((point) => point.messages))));
  const x = $derived(logarithmic([least * 0.8, most * 1.2], [MARGIN.left, right]));
  const y = $derived(
    linear([0, Math.max(1, ...points.map((point) => point.mean)) * 1.05], [bottom, MARGIN.top]),
  );
  const marks = $derived(x.ticks(6).map((at) => ({ at, text: number(at) })));
  const channels = $derived([...new Set(points.map((point) => point.channel))]);
  const ink = (point: Point) => `var(--comparison-${channels.indexOf(point.channel) % 6})`;
  const labels = $derived(
    apart(
      points.map((point) => ({ point, at: y(point.mean) })),
      GAP,
      bottom,
    ),
  );
</script>

<div bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {HEIGHT}"
    {width}
    height={HEIGHT}
    role="group"
    aria-label="Campaigns by messages sent (x) and mean response streak (y)"
    data-testid="points"
  >
    <Axes
      levels={y.ticks(4)}
      {y}
      format={(level) => level.toFixed(1)}
      left={MARGIN.left}
      {right}
      {marks}
      {x}
      {bottom}
    />
    <text x={right} y={HEIGHT - 4} text-anchor="end" class="fill-(--ink-soft) text-[12px]">messages sent</text
    >
    <text x={MARGIN.left + 4} y={MARGIN.top - 10} class="fill-(--ink-soft) text-[12px]"
      >mean response streak (messages)</text
    >
    {#each labels as { point, at }, index (index)}
      <a
        href={audienceOf(condition({ streak: { of: "longest", at_least: 2 }, ...messagesOf(point) }))}
        aria-label="{named(point)} {point.mean.toFixed(2)}: {number(
          point.messages,
        )} messages; create audience of streaks of 2 or more"
      >
        <line
          x1={x(point.messages)}
          y1={y(point.mean)}
          x2={right + 6}
          y2={at}
          stroke={ink(point)}
          stroke-opacity="0.35"
        />
        <circle cx={x(point.messages)} cy={y(point.mean)} r="6" fill={ink(point)} />
        <text x={right + 10} y={at + 4} fill={ink(point)} class="text-[13px]"
          >{named(point)} <tspan font-weight="600">{point.mean.toFixed(2)}</tspan></text
        >
      </a>
    {/each}
  </svg>
</div>
<p class="soft small">
  By channel: {#each channels as channel, index (channel)}<span style:color="var(--comparison-{index % 6})"
      >{index ? ", " : ""}{channel ? channelName(channel) : "no channel"}</span
    >{/each}. Campaigns sent once have streaks of at most 1.
</p>
