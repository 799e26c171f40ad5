<script lang="ts">
  import { linear } from "../../charts/scale";
  import { signed } from "../../lib/format";
  import type { Reason } from "./question";

  /** How much of a change each reason makes, with its interval, on either side of nothing. Those beyond chance stand out. */
  let { reasons, hrefs, label }: { reasons: Reason[]; hrefs: (string | null)[]; label: string } = $props();

  const ROW = 27;
  const TOP = 20;
  let width = $state(800);
  const names = $derived(Math.min(330, width * 0.45));
  const letters = $derived(Math.floor(names / 6.9));
  const bounds = $derived(reasons.flatMap(({ low, high, amount }) => [low, high, amount, 0]));
  const x = $derived(
    linear([Math.min(...bounds), Math.max(1e-9, ...bounds)], [names + 60, width - 60]).nice(5),
  );
  const height = $derived(TOP + reasons.length * ROW + 8);
  const short = (text: string) => (text.length > letters ? `${text.slice(0, letters - 1)}…` : text);
  const said = ({ amount }: Reason) => signed(Math.round(amount));
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg viewBox="0 0 {width} {height}" {width} {height} role="group" aria-label={label}>
    {#each x.ticks(width > 560 ? 5 : 2) as tick (tick)}
      <line
        x1={x(tick)}
        x2={x(tick)}
        y1={TOP - 4}
        y2={height - 8}
        stroke={tick === 0 ? "var(--ink)" : "var(--rule)"}
      />
      <text x={x(tick)} y={TOP - 9} text-anchor="middle" class="fill-(--ink-soft) text-[12px] tabular-nums"
        >{tick === 0 ? "0" : signed(tick)}</text
      >
    {/each}
    {#each reasons as reason, at (at)}
      {@const y = TOP + at * ROW + ROW / 2}
      {@const ink = reason.clear ? "var(--accent)" : "var(--ink-soft)"}
      <text
        x={0}
        y={y + 4}
        class="text-[13px] {reason.clear ? 'fill-(--ink) font-semibold' : 'fill-(--ink-soft)'}"
        ><title>{reason.said}</title>{short(reason.said)}</text
      >
      {#snippet mark()}
        <rect
          x={x(reason.low) - 6}
          y={y - 11}
          width={x(reason.high) - x(reason.low) + 12}
          height="22"
          fill="transparent"
          ><title
            >{reason.said}: {said(reason)} (95% CI {signed(Math.round(reason.low))} to {signed(
              Math.round(reason.high),
            )})</title
          ></rect
        >
        <line
          x1={x(reason.low)}
          x2={x(reason.high)}
          y1={y}
          y2={y}
          stroke={ink}
          stroke-width={reason.clear ? 2.5 : 1.2}
        />
        <circle
          cx={x(reason.amount)}
          cy={y}
          r="4.5"
          fill={reason.clear ? ink : "var(--paper)"}
          stroke={ink}
          stroke-width="1.5"
        />
        {#if reason.clear}
          {@const left = reason.amount < 0}
          <text
            x={left ? x(reason.low) - 9 : x(reason.high) + 9}
            y={y + 4}
            text-anchor={left ? "end" : "start"}
            class="fill-(--ink) text-[13px] font-semibold tabular-nums">{said(reason)}</text
          >
        {/if}
      {/snippet}
      {#if hrefs[at]}
        <a href={hrefs[at]} aria-label="{reason.said}: {said(reason)}">{@render mark()}</a>
      {:else}{@render mark()}{/if}
    {/each}
  </svg>
</div>
