<script lang="ts">
  import { stateName } from "../lifecycle/states";
  import { answer, api } from "../lib/api/client";
  import { day, daysBetween, month, number, plural } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import Picture from "../charts/Picture.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";

  /** One person's way through the states as a strip, what was thought of it at the time, and what comes next. */
  let { person }: { person: number } = $props();

  const HEIGHT = 26;
  let width = $state(700);
  const life = new Live((signal) => {
    return answer(
      api.GET("/people/{id}/lifecycle", { params: { path: { id: person }, query: workspace.dates }, signal }),
    );
  });
  const first = $derived(life.data?.stretches[0]?.from ?? workspace.asOf);
  const span = $derived(Math.max(1, daysBetween(first, workspace.asOf) + 1));
  const years = $derived.by(() => {
    const from = Number(first.slice(0, 4));
    const until = Number(workspace.asOf.slice(0, 4));
    const quarters = Array.from({ length: (until - from + 1) * 4 }, (_, index) => {
      const month = (index % 4) * 3 + 1;
      return `${from + Math.floor(index / 4)}-${String(month).padStart(2, "0")}-01`;
    }).filter((date) => date > first && date <= workspace.asOf);
    return quarters.length > 12 ? quarters.filter((date) => date.endsWith("-01-01")) : quarters;
  });
  const now = $derived(life.data?.stretches.at(-1));

  function at(date: string): number {
    return (daysBetween(first, date) / span) * width;
  }
</script>

{#if life.data && life.data.stretches.length}
  {@const data = life.data}
  <div data-testid="person-lifecycle" class="-mt-7">
    <Picture title="States" name="states-of-person-{person}">
      {#snippet beside()}<Downloads
          name="states-of-person-{person}"
          rows={data.stretches.map(({ state, from, to }) => ({ state: state as string, from, to }))}
        />{/snippet}
      {#if !data.about}<p class="soft small">This rule set does not cover this person.</p>{/if}
      <p class="mt-1">
        {#if now}<StateMark state={now.state} /> since {day(data.since)};{/if}
        {plural(data.spells, "active period")}, {plural(data.reactivations, "reactivation")}, longest
        inactivity gap {plural(data.longest_gap ?? 0, "day")}.
        {#if data.next}Without activity: <StateMark state={data.next.state} /> from {day(data.next.on)}.{/if}
      </p>
      <div bind:clientWidth={width} class="mt-2">
        <svg
          viewBox="0 0 {width} {HEIGHT + 36}"
          {width}
          height={HEIGHT + 36}
          role="img"
          aria-label="States from {day(first)} to {day(workspace.asOf)}"
        >
          {#each data.stretches as stretch (stretch.from)}
            <rect
              x={at(stretch.from)}
              width={Math.max(1, ((daysBetween(stretch.from, stretch.to) + 1) / span) * width)}
              height={HEIGHT}
              fill="url(#state-{stretch.state})"
              ><title>{stateName(stretch.state)}, {day(stretch.from)} to {day(stretch.to)}</title></rect
            >
          {/each}
          {#each data.revised as change (change.from)}
            <rect
              x={at(change.from)}
              width={Math.max(2, ((daysBetween(change.from, change.to) + 1) / span) * width)}
              y={HEIGHT + 3}
              height="5"
              fill="url(#state-{change.then})"
              stroke="var(--ink)"
              stroke-width="0.6"
              ><title
                >{day(change.from)} to {day(change.to)}: first reported {stateName(change.then)}, now {stateName(
                  change.now,
                )}</title
              ></rect
            >
          {/each}
          {#each years as date (date)}
            <line
              x1={at(date)}
              x2={at(date)}
              y1="0"
              y2={HEIGHT + 14}
              stroke="var(--paper)"
              stroke-width="1"
            />
            <text x={at(date)} y={HEIGHT + 30} text-anchor="middle" class="fill-(--ink-soft) text-[12px]"
              >{date.endsWith("-01-01") ? date.slice(0, 4) : month(date)}</text
            >
          {/each}
        </svg>
      </div>
      {#if data.revised.length}
        <details class="small">
          <summary class="cursor-pointer"
            >Revised {plural(data.revised.length, "time")} (ticks below the bar): the state was different with the
            data available then</summary
          >
          <ul class="mt-1">
            {#each data.revised.slice(0, 100) as change (change.from)}
              <li>
                {day(change.from)}{change.to === change.from ? "" : ` to ${day(change.to)}`}: <StateMark
                  state={change.then}
                /> then,
                <StateMark state={change.now} /> now
              </li>
            {/each}
            {#if data.revised.length > 100}<li class="soft">
                and {number(data.revised.length - 100)} more
              </li>{/if}
          </ul>
        </details>
      {/if}
    </Picture>
  </div>
{:else if life.problem}
  <p class="soft small">{life.problem.detail}</p>
{/if}
