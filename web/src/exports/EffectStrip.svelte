<script lang="ts">
  import { scaleLinear } from "d3-scale";
  import Explained from "../help/Explained.svelte";
  import { decimals, points } from "../lib/format";
  import type { Answer } from "../lib/api/ask";

  /** A difference as a strip with its 95% interval and zero, and what else is known of it. */
  type Found = Answer<"export-effect">["picture"];
  let {
    difference,
    relative,
    p,
    share,
  }: {
    difference: NonNullable<Found["difference"]>;
    relative: Found["relative"];
    p: number | null;
    /** Whether it is one of shares, told in points. */
    share: boolean;
  } = $props();

  const WIDTH = 420;
  const HEIGHT = 44;
  const reach = $derived(1.15 * Math.max(Math.abs(difference.low), Math.abs(difference.high), 1e-9));
  const x = $derived(scaleLinear([-reach, reach], [0, WIDTH]));

  function said(value: number): string {
    return share ? points(value) : `${value > 0 ? "+" : ""}${decimals(value, 2, 2)}`;
  }
</script>

<div class="mt-1 flex flex-wrap items-center gap-x-6 gap-y-1">
  <svg
    width={WIDTH}
    height={HEIGHT}
    viewBox="0 0 {WIDTH} {HEIGHT}"
    role="img"
    aria-label="Difference {said(difference.estimate)}, 95% interval {said(difference.low)} to {said(
      difference.high,
    )}"
  >
    <line x1={x(0)} x2={x(0)} y1="0" y2={HEIGHT} stroke="var(--ink)" stroke-dasharray="4 4" />
    <rect
      x={x(difference.low)}
      y="16"
      width={Math.max(2, x(difference.high) - x(difference.low))}
      height="12"
      fill="var(--state-active)"
      opacity="0.45"
    />
    <rect x={x(difference.estimate) - 2} y="9" width="4" height="26" fill="var(--state-active)" />
  </svg>
  <span
    ><strong>{said(difference.estimate)}{share ? " points" : ""}</strong>
    <span class="soft">95% interval {said(difference.low)} to {said(difference.high)}</span>
    <Explained term={share ? "share_interval" : "interval"} /></span
  >
  {#if relative}
    <span class="soft"
      >relative {points(relative.estimate)}% ({points(relative.low)} to {points(relative.high)})</span
    >
  {/if}
  {#if p !== null}<span class="soft"
      >p {p < 0.0001 ? "< 0.0001" : `= ${decimals(p, 4, 4)}`} <Explained term="p_value" /></span
    >{/if}
</div>
