<script lang="ts">
  import { untrack } from "svelte";
  import { Asked } from "../../lib/asked.svelte";
  import { day } from "../../lib/format";
  import { workspace } from "../../lib/workspace.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import DataTable from "../DataTable.svelte";
  import { drawable } from "../figures";
  import { linkTo } from "../saved";
  import TablePicture from "../TablePicture.svelte";
  import { analysisOf, asks, type Block, type Drawn, type Saved } from "./pages";

  /** A saved analysis on a page: its name, what it says, a plain picture, and the table. While writing, what is drawn is chosen here. */
  let {
    block,
    saved,
    choose = null,
  }: {
    block: Block;
    saved: Saved;
    /** Chooses what is drawn; null while the page is read. */
    choose?: ((drawn: Drawn | null, table: boolean) => void) | null;
  } = $props();

  const asked = new Asked(
    untrack(() => analysisOf(saved)), // a block of another analysis is another block
    () => asks(saved, workspace.asOf) as never,
  );
  const answer = $derived(asked.data);
  const drawn = $derived(block.drawn ?? answer?.drawn ?? null);
  const table = $derived(answer?.tables.find(({ key }) => key === drawn?.table) ?? null);
  const withTable = $derived(block.table ?? true);
  const options = $derived(answer ? drawable(answer.tables) : []);
  const keyOf = (one: Drawn) => `${one.table} ${one.figure}`;

  function pick(key: string) {
    const found = options.find((one) => keyOf(one) === key);
    choose?.(found ? { table: found.table, figure: found.figure } : null, withTable);
  }
</script>

<h3 class="font-semibold">
  <a href={linkTo(saved.analysis, saved.question, saved.id)}>{saved.name}</a>
</h3>
{#if !saved.asks}
  <p class="soft">Open this analysis and save it again to show it here.</p>
{:else if answer && !asked.problem}
  <div aria-busy={asked.loading}>
    <p class="says max-w-none">{answer.finding}</p>
    {#if answer.as_of !== workspace.asOf}<p class="soft small">As of {day(answer.as_of)}</p>{/if}
    {#if choose}
      <p class="small mt-1 flex flex-wrap items-center gap-x-4">
        <label
          >Chart <select
            value={drawn ? keyOf(drawn) : ""}
            onchange={(event) => pick(event.currentTarget.value)}
          >
            {#each options as one (keyOf(one))}<option value={keyOf(one)}>{one.words}</option>{/each}
          </select></label
        >
        <label class="flex items-center gap-1"
          ><input
            type="checkbox"
            checked={withTable}
            onchange={(event) => choose(block.drawn ?? null, event.currentTarget.checked)}
          /> Show table</label
        >
      </p>
    {/if}
    {#if table && drawn}
      <TablePicture {table} figure={drawn.figure} asOf={answer.as_of} />
      {#each answer.caveats as caveat (caveat)}<p class="soft small mt-1">{caveat}</p>{/each}
      {#if withTable}<DataTable {table} asOf={answer.as_of} newest={table.columns[0]?.kind === "date"} />{/if}
    {/if}
  </div>
{:else}
  <!-- About as high as the picture will be. -->
  <div class={asked.problem ? "" : "min-h-[28rem]"}><Waiting of={asked} /></div>
{/if}
