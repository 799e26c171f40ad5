<script lang="ts">
  import { groupSaid } from "../../lib/names";
  import { stateName } from "../../lifecycle/states";
  import { address } from "../../lib/address.svelte";
  import { Asked } from "../../lib/asked.svelte";
  import SplitBy from "../SplitBy.svelte";
  import ComparedName from "../../audiences/ComparedName.svelte";
  import { number } from "../../lib/format";
  import { comparison } from "../../audiences/comparison.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, Reader } from "../codec";
  import ShareBars from "./ShareBars.svelte";

  /** What everybody, or one or two of the audiences compared by, are made of. */
  const read = $derived.by(() => {
    const reader = new Reader();
    return { split: reader.split("by"), left: reader.left };
  });
  const audiences = $derived(comparison.active.slice(0, 2));
  /** States and profile types by their own names, values by those of the catalogue. */
  function called(value: string): string {
    if (value === "") return "(empty)";
    return read.split && !("state" in read.split) ? groupSaid(read.split, value) : stateName(value);
  }
  const breakdown = new Asked("breakdown", () => ({
    audiences,
    by: read.split ?? { state: true as const },
  }));
</script>

<AnalysisPage asked={breakdown} title="Share of people by value" name="breakdown" left={read.left}>
  {#snippet question()}
    Breakdown of {#each audiences as id, index (id)}{index ? " and " : ""}<ComparedName {id} />{:else}all
      people{/each}
    by <SplitBy
      phrase
      value={read.split ? (address.get("by") ?? "state") : "state"}
      choose={(value) => put({ by: value })}
    />
    {#if comparison.active.length > 2}<span class="soft small"
        >Only the first two audiences in the comparison are shown.</span
      >{/if}
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <ShareBars {data} positions={data.ids.map((id) => comparison.position(id))} {called} />
    {#if data.values > data.rows.length}<p class="soft small mt-1">
        Showing the most frequent of {number(data.values)} values.
      </p>{/if}
  {/snippet}
</AnalysisPage>
