<script lang="ts">
  import { put } from "../codec";
  import { inUnit, said, type Figure, type Picture } from "./question";

  /** The groups beside the picture: its legend, their figures, and which of them is drawn where it is one at a time. */
  let {
    data,
    figure,
    period,
    chosen,
    colour,
  }: {
    data: Picture;
    figure: Figure;
    /** The number of the period whose figures stand there; those of the whole range where there is none. */
    period: number | null;
    /** The group that is drawn, where it is one at a time. */
    chosen: number | null;
    colour: (index: number) => string;
  } = $props();
</script>

<ul data-testid="visits-key">
  {#each data.rows as line, index (index)}
    {@const { total, values } = line.figures[figure]}
    {@const told = period === null ? total : (values[period] ?? null)}
    <li class="border-b border-(--rule) py-1.5">
      <div class="flex items-baseline gap-2">
        <span class="inline-block h-3 w-3 shrink-0" style="background: {colour(index)}" aria-hidden="true"
        ></span>
        {#if chosen !== null}
          <button
            class="cursor-pointer text-left {index === chosen ? 'font-semibold' : 'underline'}"
            aria-pressed={index === chosen}
            onclick={() => put({ row: index || null })}>{line.name}</button
          >
        {:else}<span>{line.name}</span>{/if}
        <span class="ml-auto font-semibold whitespace-nowrap tabular-nums"
          >{said(figure, inUnit(figure, told, data.unit), data.unit)}</span
        >
      </div>
      <p class="soft small">
        {said("visits", line.figures.visits.total, data.unit)} visits of
        {said("people", line.figures.people.total, data.unit)} people, {said(
          "mean",
          inUnit("mean", line.figures.mean.total, data.unit),
          data.unit,
        )} on average
      </p>
    </li>
  {/each}
</ul>
