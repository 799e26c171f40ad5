<script lang="ts">
  import { linear } from "../charts/scale";
  import Explained from "../help/Explained.svelte";
  import { decimals, number, percent, points, signed } from "../lib/format";
  import type { Answer } from "../lib/api/ask";

  /** Differences as strips with their 95% intervals and zero on one scale, and what else is known of the whole. */
  type Found = Answer<"export-effect">["picture"];
  type Interval = NonNullable<Found["difference"]>;
  let { found, others }: { found: Found; others: string } = $props();

  const WIDTH = 420;
  const HEIGHT = 30;
  const strips = $derived(
    [
      { name: "all", difference: found.difference, within: false },
      ...found.within.flatMap(({ groups }) => groups.map((group) => ({ ...group, within: true }))),
    ].filter((strip): strip is { name: string; difference: Interval; within: boolean } => !!strip.difference),
  );
  const reach = $derived(
    1.15 *
      Math.max(...strips.flatMap(({ difference: { low, high } }) => [Math.abs(low), Math.abs(high)]), 1e-9),
  );
  const x = $derived(linear([-reach, reach], [0, WIDTH]));

  function said(value: number): string {
    return found.share ? points(value) : `${value > 0 ? "+" : ""}${decimals(value, 2, 2)}`;
  }

  function span({ low, high }: Interval): string {
    return `${said(low)} to ${said(high)}`;
  }
</script>

<div class="mt-3 space-y-1" data-testid="strips">
  {#each strips as { name, difference, within } (name)}
    <div class="flex flex-wrap items-center gap-x-6 gap-y-1">
      <svg
        class="max-w-full"
        width={WIDTH}
        height={HEIGHT}
        viewBox="0 0 {WIDTH} {HEIGHT}"
        role="img"
        aria-label="Difference{within ? ` in ${name}` : ''} {said(difference.estimate)}, 95% CI {span(
          difference,
        )}"
      >
        <line x1={x(0)} x2={x(0)} y1="0" y2={HEIGHT} stroke="var(--ink)" stroke-dasharray="4 4" />
        <rect
          x={x(difference.low)}
          y={within ? 12 : 9}
          width={Math.max(2, x(difference.high) - x(difference.low))}
          height={within ? 6 : 12}
          fill={within ? "var(--ink-soft)" : "var(--state-active)"}
          opacity="0.45"
        />
        <rect
          x={x(difference.estimate) - 2}
          y="5"
          width="4"
          height="20"
          fill={within ? "var(--ink-soft)" : "var(--state-active)"}
        />
      </svg>
      <span
        >{#if within}{name}{:else}<strong>{said(difference.estimate)}{found.share ? " points" : ""}</strong
          >{/if}
        <span class="soft"
          >{within
            ? `${said(difference.estimate)} (${span(difference)})`
            : `95% CI ${span(difference)}`}</span
        >
        {#if !within}<Explained term={found.share ? "share_interval" : "interval"} />{/if}</span
      >
    </div>
  {/each}
</div>
<p class="soft small mt-2">
  {#if found.relative}<span class="mr-4"
      >relative lift {points(found.relative.estimate)}% (95% CI {points(found.relative.low)} to {points(
        found.relative.high,
      )})</span
    >{/if}
  {#if found.p_value !== null}<span class="mr-4"
      >p {found.p_value < 0.0001 ? "< 0.0001" : `= ${decimals(found.p_value, 4, 4)}`}
      <Explained term="p_value" /></span
    >{/if}
  {#if found.total}<span class="mr-4"
      >total lift {signed(Math.round(found.total.estimate))}{found.share ? " people" : ""} (95% CI {signed(
        Math.round(found.total.low),
      )} to {signed(Math.round(found.total.high))}) among {number(found.groups[0]?.people ?? 0)}
      {others}</span
    >{/if}
  {#if found.adjusted}<span
      >adjusted for {found.known_before}: {said(found.adjusted.estimate)} (95% CI {span(found.adjusted)});
      variance
      {found.adjusted.less >= 0 ? "−" : "+"}{percent(Math.abs(found.adjusted.less))}</span
    >{/if}
</p>
