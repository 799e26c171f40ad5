<script lang="ts">
  import { number, percent, points } from "../../lib/format";
  import { colourOf } from "../inks";
  import KeyLine from "../KeyLine.svelte";
  import type { Picture } from "./question";

  /** The groups of a retention beside its picture: how many began, and what became of them at the place pointed at. */
  let { data, pointed, overTime }: { data: Picture; pointed: number | null; overTime: boolean } = $props();

  type Line = Picture["rows"][number];

  function trendSaid({ trend }: Line, step: string): string | null {
    if (!trend) return null;
    const [slope, low, high] = [trend.slope, trend.low, trend.high].map((one) => points(one));
    return `${slope} pp per ${step} (95% CI ${low} to ${high})`;
  }

  const told = (share: number | null | undefined) => (share == null ? "–" : percent(share));
  const lastTold = (line: Line) => line.curve.findLast(({ share }) => share !== null)?.share;
</script>

<p class="soft small">
  {!overTime
    ? pointed === null
      ? `Cohort size; ${data.places[0]?.said ?? ""} and latest ${data.step}`
      : data.places[pointed]?.said
    : "Trend across cohorts"}
</p>
<ul class="mt-1">
  {#each data.rows as line, index (index)}
    {@const at = pointed === null ? null : line.curve[pointed]}
    <KeyLine
      name={line.name}
      colour={colourOf(line, index)}
      figure={number(line.sizes.reduce((sum, size) => sum + size, 0))}
    >
      <p class="pl-5 font-semibold tabular-nums">
        {#if overTime}{trendSaid(line, data.step) ?? "not enough data"}
        {:else if at}{told(at.share)}
          <span class="soft font-normal">{number(at.people)} of {number(at.size)}</span>
        {:else}{told(line.curve[0]?.share)} → {told(lastTold(line))}{/if}
      </p>
    </KeyLine>
  {/each}
</ul>
