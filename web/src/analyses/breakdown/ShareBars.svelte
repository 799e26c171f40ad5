<script lang="ts">
  import { linear } from "../../charts/scale";
  import type { Schemas } from "../../lib/api/client";
  import { number, percent, points } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";

  /** The share of each value as a bar, or as one for each of two audiences with the interval of the difference. */
  let {
    data,
    positions,
    called,
  }: {
    data: Schemas["BreakdownPicture"];
    positions: number[];
    /** What a value is called. */
    called: (value: string) => string;
  } = $props();

  type Row = Schemas["BreakdownPicture"]["rows"][number];
  const BAR = 13;
  const NAMES = 170;
  const APART = 330;
  /** Narrower than this the bars would have no room beside names and intervals; it is scrolled then. */
  const LEAST = { one: 440, two: 780 };
  let room = $state(1100);
  const two = $derived(data.totals.length === 2);
  const width = $derived(Math.max(room, two ? LEAST.two : LEAST.one));
  const height = $derived(data.totals.length * BAR + 11);
  const right = $derived(two ? width - APART : width - 150);
  const x = $derived(
    linear([0, Math.max(0.0001, ...data.rows.flatMap((row) => row.shares))], [NAMES, right]),
  );
  const reach = $derived(
    Math.max(
      0.0001,
      ...data.rows.flatMap(({ difference }) =>
        difference ? [Math.abs(difference.low), Math.abs(difference.high)] : [],
      ),
    ),
  );
  const apart = $derived(linear([-reach, reach], [right + 90, right + 190]));

  function name(row: Row): string {
    return row.kind === "other" ? "other" : row.kind === "not_set" ? "not set" : called(row.value!);
  }

  function short(text: string): string {
    return text.length > 22 ? `${text.slice(0, 21)}…` : text;
  }

  function people(row: Row, index: number): string {
    const id = data.ids[index];
    return peopleOf([...(id ? [{ audience: { id } }] : []), row.people_in]);
  }

  const ink = (index: number) =>
    data.ids.length ? `var(--comparison-${positions[index]})` : "var(--ink-soft)";
</script>

<div class="overflow-x-auto" bind:clientWidth={room}>
  <svg
    viewBox="0 0 {width} {data.rows.length * height + 8}"
    {width}
    height={data.rows.length * height + 8}
    role="group"
    aria-label="Share of people by value{two ? ', and the difference in pp with 95% CI' : ''}"
    data-testid="breakdown"
  >
    {#if two}<line
        x1={apart(0)}
        x2={apart(0)}
        y1="0"
        y2={data.rows.length * height}
        stroke="var(--rule-strong)"
      />{/if}
    {#each data.rows as row, at (row.kind + row.value)}
      <g transform="translate(0 {at * height})">
        <text
          x={NAMES - 10}
          y={height / 2 + 1}
          text-anchor="end"
          class="text-[13px] {row.kind === 'value' ? 'fill-(--ink)' : 'fill-(--ink-soft)'}"
          ><title>{name(row)}</title>{short(name(row))}</text
        >
        {#each row.shares as share, index (index)}
          <a
            class="no-underline"
            href={people(row, index)}
            aria-label="{name(row)}{data.names[index] ? ` of ${data.names[index]}` : ''}: {percent(
              share,
            )} {number(row.counts[index]!)} people"
          >
            <rect
              x={NAMES}
              y={3 + index * BAR}
              width={Math.max(0.5, x(share) - NAMES)}
              height={BAR - 2}
              fill={ink(index)}
            />
            <text x={x(share) + 6} y={13 + index * BAR} class="fill-(--ink) text-[12px]"
              >{percent(share)} <tspan class="fill-(--ink-soft)">{number(row.counts[index]!)}</tspan></text
            >
          </a>
        {/each}
        {#if row.difference}
          {@const clear = row.difference.low > 0 || row.difference.high < 0}
          <line
            x1={apart(row.difference.low)}
            x2={apart(row.difference.high)}
            y1={height / 2 - 3}
            y2={height / 2 - 3}
            stroke="var(--ink)"
            stroke-width="1.5"
          />
          <circle
            cx={apart(row.difference.estimate)}
            cy={height / 2 - 3}
            r="3.5"
            fill={clear ? "var(--ink)" : "var(--paper)"}
            stroke="var(--ink)"
          />
          <text
            x={right + 206}
            y={height / 2 + 1}
            class="text-[12px] {clear ? 'fill-(--ink)' : 'fill-(--ink-soft)'}"
            font-weight={clear ? 600 : 400}
            >{points(row.difference.estimate)}<tspan class="fill-(--ink-soft)" font-weight="400">
              &nbsp;{points(row.difference.low)} to {points(row.difference.high)}</tspan
            ></text
          >
        {/if}
      </g>
    {/each}
  </svg>
</div>
{#if two}<p class="soft small">Right: difference in pp with 95% CI. Filled: CI excludes 0.</p>{/if}
