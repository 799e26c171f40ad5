<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { addDays } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import MovementTable from "./MovementTable.svelte";

  /** Where people went between two days: those chosen, or the ends of the last complete period. */
  let { periods }: { periods: Schemas["StatesPicture"]["periods"] } = $props();

  const ends = $derived.by(() => {
    const chosen = [address.get("between"), address.get("and")];
    if (chosen[0] && chosen[1]) return { before: chosen[0], to: chosen[1] };
    const period = periods.findLast((row) => row.complete) ?? periods.at(-1);
    return period ? { before: addDays(period.from, -1), to: period.to } : null;
  });
  const movement = new Asked("state-movement", () => ends && { from: ends.before, as_of: ends.to });
</script>

{#if ends}
  <AnalysisPage asked={movement} name="movement" under="Movement between states" tables={{}}>
    {#snippet question()}
      How people moved between states from the end of <DateField
        phrase
        label="Between the end of"
        value={ends.before}
        most={ends.to}
        change={(before) => put({ between: before, and: ends.to })}
      /> to the end of <DateField
        phrase
        label="and the end of"
        value={ends.to}
        most={workspace.info?.today}
        change={(to) => put({ between: ends.before, and: to })}
      />
    {/snippet}
    {#snippet picture(answer)}
      <MovementTable movement={answer.picture} before={answer.picture.from} />
    {/snippet}
  </AnalysisPage>
{/if}
