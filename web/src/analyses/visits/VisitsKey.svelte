<script lang="ts">
  import { put } from "../codec";
  import KeyLine from "../KeyLine.svelte";
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
    <KeyLine
      name={line.name}
      colour={colour(index)}
      figure={said(figure, inUnit(figure, told, data.unit), data.unit)}
      strong
      chosen={index === chosen}
      choose={chosen === null ? null : () => put({ row: index || null })}
    >
      <p class="soft small">
        {said("visits", line.figures.visits.total, data.unit)} visits by {said(
          "people",
          line.figures.people.total,
          data.unit,
        )} people, mean {said("mean", inUnit("mean", line.figures.mean.total, data.unit), data.unit)}
      </p>
    </KeyLine>
  {/each}
</ul>
