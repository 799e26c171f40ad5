<script lang="ts">
  import { groupSaid } from "../lib/names";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import SplitBy, { by } from "../analyses/SplitBy.svelte";
  import { comparison } from "../audiences/comparison.svelte";
  import ComparedName from "../audiences/ComparedName.svelte";
  import ComparisonMark from "../audiences/ComparisonMark.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { number, ratio } from "../lib/format";
  import { range } from "../lib/range.svelte";
  import { dateMarks } from "./lifecycle";

  /** Groups of people beside each other: the audiences of the comparison, or the values of something they are split by. */
  type Group = Schemas["StatesByGroupPicture"]["rows"][number];
  const LINES = 6;
  const split = $derived(by(address.get("groups")));
  const groups = new Asked("states-by-group", () =>
    split || comparison.active.length
      ? { from: range.from, step: range.step, ...(split ? { by: split } : { audiences: comparison.active }) }
      : null,
  );

  function name(group: Group): string {
    if (group.id !== null) return comparison.name(group.id);
    if (group.kind === "other") return `${number(Number(group.value))} other values`;
    return group.kind === "not_set" ? "not set" : groupSaid(split, group.value ?? "");
  }

  function colour(group: Group, index: number): string {
    return `var(--comparison-${group.id !== null ? comparison.position(group.id) : index % LINES})`;
  }
</script>

{#snippet mark(row: Schemas["AnalysisTable"]["rows"][number])}
  {@const audience = row.people?.audience as { id: number } | undefined}
  {#if audience}<ComparisonMark position={comparison.position(audience.id)} />{/if}
{/snippet}
<AnalysisPage
  asked={groups}
  under="By group"
  title={range.step === "day" ? null : "Gain/loss ratio by group"}
  name="groups"
  tables={{ groups: { mark } }}
>
  {#snippet question()}
    Lifecycle states of {#each split ? [] : comparison.active as id, index (id)}{index
        ? ", "
        : ""}<ComparedName {id} />{:else}groups{/each} split by <SplitBy
      phrase
      overTime
      value={split ? (address.get("groups") ?? "") : ""}
      none={comparison.active.length ? "the comparison" : "nothing"}
      choose={(value) => put({ groups: value || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {#if data.step !== "day"}
      <LinePlot
        label="Gain/loss ratio by group"
        lines={data.rows
          .slice(0, LINES)
          .map((group, index) => ({ name: name(group), values: group.ratios, colour: colour(group, index) }))}
        xs={data.periods.map((_, index) => index)}
        marks={dateMarks(data.periods.map((period) => period.to))}
        format={ratio}
        days={data.periods}
        reference={{ at: 1, text: "" }}
        log
        room={210}
      />
    {/if}
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">Choose a split, or add audiences to the comparison.</p>
  {/snippet}
</AnalysisPage>
