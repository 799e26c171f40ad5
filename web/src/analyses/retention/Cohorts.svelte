<script lang="ts">
  import type { Answer } from "../../lib/api/ask";
  import { number, percent } from "../../lib/format";
  import { audienceOf, peopleOf } from "../../lib/groups";
  import type { Picture } from "./question";

  /**
   * The cohorts of a group, one row each: how many began, and what share came back at each place, the darker the more. What
   * has not passed for all of a cohort is hatched. A cell says whom it holds, and opens those who came back, or who did not.
   */
  let { answer, group, shares }: { answer: Answer<"retention">; group: number; shares: boolean } = $props();

  /** How much ink the darkest cell has, of 100: figures on it stay readable in both themes. */
  const DARKEST = 48;
  let chosen = $state<{ cohort: number; place: number } | null>(null);
  const data = $derived<Picture>(answer.picture);
  const line = $derived(data.rows[group]!);
  const table = $derived(answer.tables.find(({ key }) => key === `cohorts_${group}`)!);
  const most = $derived(
    Math.max(
      0.01,
      ...line.cells.flatMap((cells, cohort) => cells.map((people) => people / (line.sizes[cohort] || 1))),
    ),
  );
  /** Whether a place has begun for the first of a cohort. */
  const begun = (cohort: number, place: number) => (table.rows[cohort]!.values[place + 2] ?? null) !== null;
  const share = (cohort: number, place: number) => line.cells[cohort]![place]! / (line.sizes[cohort] || 1);
  const cell = (cohort: number, place: number) =>
    shares ? percent(share(cohort, place)) : number(line.cells[cohort]![place]!);
  const cohortName = (cohort: number) => String(table.rows[cohort]!.values[0]);
  const short = (said: string) => said.replace(/^(?:days?|weeks?|months?) /, "");

  const detail = $derived.by(() => {
    if (!chosen || !line.sizes[chosen.cohort]) return null;
    const { cohort, place } = chosen;
    const row = table.rows[cohort]!;
    const condition = row.cells[`at_${place}`];
    const people = line.cells[cohort]![place]!;
    return {
      text: `${cohortName(cohort)}: ${number(people)} of ${number(line.sizes[cohort]!)} (${percent(share(cohort, place))}) returned, ${data.places[place]!.said}${data.cohorts[cohort]!.places[place] ? "" : " (incomplete)"}`,
      back: condition && peopleOf([condition]),
      not: condition && row.people && peopleOf([row.people, { not: condition }]),
      keep: condition && row.people && audienceOf([row.people, { not: condition }]),
    };
  });
</script>

<p class="small mt-1 min-h-6" role="status" data-testid="cell">
  {#if detail}{detail.text}
    {#if detail.back}<a href={detail.back}>Returned</a> ·
      <a href={detail.not}>Did not return</a> ·
      <a href={detail.keep}>Create audience of these</a>{/if}
  {:else}<span class="soft">Click a cell to see its people. Hatched: incomplete.</span>{/if}
</p>
<div class="max-w-full overflow-x-auto" role="region" aria-label="Cohorts" tabindex="-1">
  <table class="small border-separate border-spacing-[2px] tabular-nums">
    <thead>
      <tr>
        <th class="pr-3 text-left font-semibold whitespace-nowrap">Cohort</th>
        <th class="pr-2 text-right font-semibold">People</th>
        {#each data.places as place (place.said)}
          <th class="min-w-10 px-1 text-right font-semibold whitespace-nowrap" title={place.said}
            >{short(place.said)}</th
          >
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each data.cohorts as cohort, index (cohort.from)}
        {@const people = table.rows[index]!.people}
        <tr>
          <th class="pr-3 text-left font-normal whitespace-nowrap" class:soft={!cohort.complete}
            >{cohortName(index)}</th
          >
          <td class="pr-2 text-right"
            >{#if people}<a class="py-1" href={peopleOf([people])}>{number(line.sizes[index]!)}</a
              >{:else}{number(line.sizes[index]!)}{/if}</td
          >
          {#each data.places as place, at (place.said)}
            {#if begun(index, at) && line.sizes[index]}
              <td class="p-0">
                <button
                  class="cell block min-h-6 w-full min-w-6 cursor-pointer px-1 py-0.5 text-right"
                  class:hatched={!cohort.places[at]}
                  aria-pressed={chosen?.cohort === index && chosen.place === at}
                  aria-label="{cell(index, at)}: {cohortName(index)}, {place.said}, {number(
                    line.cells[index]![at]!,
                  )} of {number(line.sizes[index]!)}"
                  style:--tone="{Math.round((share(index, at) / most) * DARKEST)}%"
                  onclick={() => (chosen = { cohort: index, place: at })}>{cell(index, at)}</button
                >
              </td>
            {:else}<td></td>{/if}
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .cell {
    background-color: color-mix(in oklab, var(--comparison-0) var(--tone), var(--paper));
    color: var(--ink);
  }
  .cell.hatched {
    background-image: repeating-linear-gradient(
      45deg,
      color-mix(in oklab, var(--rule-strong) 45%, transparent) 0 2px,
      transparent 2px 7px
    );
  }
  .cell[aria-pressed="true"] {
    outline: 2px solid var(--accent);
  }
</style>
