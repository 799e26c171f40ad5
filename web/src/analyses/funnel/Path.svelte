<script lang="ts">
  import { duration, number, percent } from "../../lib/format";
  import { shortened } from "../../charts/plot";
  import type { Picture } from "./question";

  /**
   * The way of everybody from left to right: a band as thick as the part of those who began that is still on it. Who stops
   * at a step turns down there, hatched, with how many they are. A step that may be skipped is drawn in outline on the band.
   * Each part opens into its people.
   */
  let {
    names,
    optional,
    line,
    got,
    lost,
    label,
  }: {
    names: string[];
    /** Numbers of the steps that may be skipped. */
    optional: number[];
    line: Picture["rows"][number];
    /** Where a step leads: to whoever got there, and to whoever stopped there. */
    got: (at: number) => string | null;
    lost: (at: number) => string | null;
    label: string;
  } = $props();

  const uid = $props.id();
  const HEIGHT = 340;
  const TOP = 62;
  const NODE = 10;
  /** A wedge no higher than this has its figure below it. */
  const WRITTEN = 20;
  let width = $state(860);
  const column = $derived(width / names.length);
  const room = HEIGHT - TOP - 24;
  const high = (at: number) => (line.steps[at]?.share ?? 0) * room;
  const x = (at: number) => at * column;

  /** The step after one that may not be skipped; those in between keep nobody. */
  const after = (at: number) => line.steps.findIndex((_, index) => index > at && !optional.includes(index));

  /** Those who stop: from the lower edge of the band they turn down and come to an end. */
  function wedge(at: number): string {
    const left = x(at) + NODE;
    const upper = TOP + high(after(at));
    const lower = TOP + high(at);
    const end = left + column * 0.62;
    return `M ${left} ${upper} C ${left + column * 0.3} ${upper}, ${end - column * 0.1} ${upper + 4}, ${end} ${lower + 12} L ${end - 8} ${lower + 12} C ${left + column * 0.3} ${lower + 6}, ${left + column * 0.2} ${lower}, ${left} ${lower} Z`;
  }
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg viewBox="0 0 {width} {HEIGHT}" {width} height={HEIGHT} role="group" aria-label={label}>
    <defs>
      <pattern
        id="{uid}-lost"
        width="7"
        height="7"
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width="7" height="7" fill="var(--rule)" opacity="0.5" />
        <rect width="2" height="7" fill="var(--rule-strong)" />
      </pattern>
    </defs>
    {#each line.steps as step, at (at)}
      {#if step.lost}
        <a
          href={lost(at)}
          aria-label="−{number(step.lost)} {percent(step.lost / step.people)} dropped off after step {at +
            1}, {names[at]}"
        >
          <path d={wedge(at)} fill="url(#{uid}-lost)" />
          <text
            x={x(at) + NODE + 8}
            y={high(at) - high(after(at)) > WRITTEN
              ? TOP + (high(at) + high(after(at))) / 2 + 5
              : TOP + high(at) + 16}
            class="fill-(--ink) text-[13px]"
            paint-order="stroke"
            stroke="var(--paper)"
            stroke-width="3"
            >−{number(step.lost)}
            <tspan class="fill-(--ink-soft)">{percent(step.lost / step.people)}</tspan></text
          >
        </a>
      {/if}
      {#if at < line.steps.length - 1 && !optional.includes(at)}
        <rect
          x={x(at) + NODE}
          y={TOP}
          width={(after(at) - at) * column - NODE}
          height={Math.max(1, high(after(at)))}
          fill="var(--comparison-0)"
          opacity="0.22"
        />
      {/if}
      <a href={got(at)}>
        {#if optional.includes(at)}
          <rect
            x={x(at) + 1}
            y={TOP}
            width={NODE - 2}
            height={Math.max(1, high(at))}
            fill="var(--paper)"
            stroke="var(--comparison-0)"
            stroke-width="2"
          />
        {:else}
          <rect x={x(at)} y={TOP} width={NODE} height={Math.max(1, high(at))} fill="var(--comparison-0)" />
        {/if}
        <text x={x(at)} y="14" class="fill-(--ink) text-[13px]"
          >{at + 1} {shortened(names[at]!, column - 16)}</text
        >
        <text x={x(at)} y="34" class="fill-(--ink) text-[16px] font-semibold tabular-nums"
          >{number(step.people)}
          {#if at}<tspan class="text-[13px]" font-weight="400">{percent(step.share ?? 0)}</tspan>{/if}</text
        >
        {#if optional.includes(at) && column > 90}
          <text x={x(at)} y="52" class="fill-(--ink-soft) text-[12px]">optional</text>
        {:else if step.wait && column > 90}
          <text x={x(at)} y="52" class="fill-(--ink-soft) text-[12px]"
            >median {duration(step.wait.median)}</text
          >
        {/if}
      </a>
    {/each}
  </svg>
</div>
